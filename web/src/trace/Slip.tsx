import { useState } from "react";
import { useNavigate } from "react-router";

import * as acts from "../api/acts";
import { useAct, useSlip } from "../api/queries";
import type { Asker, Slip as SlipData, Summary } from "../api/types";
import { LastWritten } from "../frame/LastWritten";
import { Acts } from "../frame/Station";
import { FactList } from "../shared/FactList";
import { useKeys } from "../shared/keys";
import { Mark } from "../shared/Mark";
import { Count } from "../shared/kit";
import { Button, Section, Trouble, Waiting } from "../shared/parts";
import { PathCompare } from "../shared/PathCompare";
import { Picture, Sound } from "../shared/Sound";
import { tip } from "../shared/Tip";
import { length, bytes, plural, when, count } from "../shared/words";
import { Another } from "./Another";
import { AskHome, Home } from "./Home";
import { SearchFolders, Siblings } from "./Around";

/** Slip is everything about the selected file, or about the project when none is. */
export function Slip({
  id,
  selected,
  summary,
  onState,
}: {
  id: number;
  selected: string;
  summary: Summary;
  onState: (state: string) => void;
}) {
  const { data, error } = useSlip(id, selected);
  if (!selected) return <Whole summary={summary} onState={onState} />;
  if (error) return <Trouble error={error} />;
  if (!data) return <Waiting what="Loading." />;
  return <One id={id} slip={data} />;
}

function Whole({ summary, onState }: { summary: Summary; onState: (state: string) => void }) {
  const go = useNavigate();
  const next =
    summary.toFind > 0
      ? { path: "mend", word: "Search for missing files" }
      : { path: "sift", word: "Decide what travels" };
  return (
    <>
      <h2 className="text-[22px]">{summary.project.name}</h2>
      <p className="mb-1 text-ink2">Select a row to see its details.</p>
      <Section
        title={summary.project.documents.length === 1 ? "Document" : "Documents"}
        aside={`${plural(summary.documents, "document")} read`}
      >
        <ul>
          {summary.project.labels.map((l) => (
            <li key={l} className="truncate py-0.5 font-medium" {...tip(l)}>
              {l.split("/").at(-1)}
            </li>
          ))}
        </ul>
      </Section>
      <Section title="By state">
        <ul>
          {summary.states.map((s) => (
            <li key={s.state}>
              <button
                type="button"
                onClick={() => onState(s.state)}
                {...tip("Show only these")}
                className="flex min-h-6 w-full items-center gap-2 text-left hover:bg-band"
              >
                <Mark state={s.state} />
                <span className="flex-1">{s.state}</span>
                <Count of={s.files} />
                <span className="w-20 text-right font-mono text-[12px] text-faint">
                  {s.bytes > 0 ? bytes(s.bytes) : "—"}
                </span>
              </button>
            </li>
          ))}
        </ul>
      </Section>
      <Section title="Project folder">
        <code className="block font-mono text-[12px] break-words">{summary.project.rootName}</code>
        {summary.states.some((s) => s.state === "away") ? <Home id={summary.project.id} /> : null}
        <AskHome summary={summary} />
      </Section>
      <Siblings summary={summary} />
      <SearchFolders summary={summary} />
      <Acts>
        <LastWritten id={summary.project.id} summary={summary} />
        <Button kind="first" onClick={() => void go(`/p/${summary.project.id}/${next.path}`)}>
          {next.word}
        </Button>
      </Acts>
    </>
  );
}

function One({ id, slip }: { id: number; slip: SlipData }) {
  const go = useNavigate();
  const [copied, setCopied] = useState("");
  const reveal = useAct((p: string) => acts.reveal({ path: p }));
  const plug = useAct((drive: string) => acts.plug(drive, { connected: true }));
  const undo = useAct((repair: number) => acts.undoRepair(id, repair));
  const path = slip.path || slip.row.key;
  const copy = () => void navigator.clipboard.writeText(path).then(() => setCopied(path));
  const findable = ["missing", "twins"].includes(slip.row.state) || slip.missing > 0;
  const mend = () => void go(`/p/${id}/mend?sel=${encodeURIComponent(slip.row.key)}`);
  useKeys({ c: copy, m: findable ? mend : undefined });
  return (
    <>
      <div className="flex items-center gap-2.5">
        <Mark state={slip.row.state} big />
        <h2 className="min-w-0 text-[22px] leading-tight break-words">{slip.row.name}</h2>
      </div>
      <p className="mt-1.5 mb-1">{slip.say}</p>
      {slip.harm ? <p className="text-rust">This file is damaged: {slip.harm}. It is copied unchanged.</p> : null}
      {slip.gaps ? (
        <p className="text-rust">
          Missing frames: <span className="font-mono text-[12px]">{slip.gaps}</span>
        </p>
      ) : null}
      <Section title={slip.row.write ? "Write path" : slip.path ? "Path on disk" : "Path in document"}>
        <PathCompare lines={slip.paths} />
      </Section>
      {slip.preview && slip.path ? (
        <Section title={slip.preview === "sound" ? "Listen" : "Look"}>
          {slip.preview === "sound" ? <Sound key={slip.path} path={slip.path} space /> : <Picture path={slip.path} />}
        </Section>
      ) : null}
      {slip.path ? (
        <Section title="Facts">
          <FactList size={slip.size} facts={slip.facts} modified={slip.modified} sha256={slip.sha256} />
        </Section>
      ) : null}
      {slip.repair ? (
        <Section title="Relinked" aside={slip.repair.certainty}>
          <p>{slip.repair.reasons.join(", ")}</p>
          <Button
            kind="small"
            className="mt-1.5"
            disabled={undo.isPending}
            onClick={() => slip.repair && undo.mutate(slip.repair.id)}
          >
            Undo repair
          </Button>
        </Section>
      ) : null}
      {slip.last ? (
        <Section title="Last known state" aside={when(slip.last.at)}>
          <FactList size={slip.last.size} facts={slip.last.facts} sha256={slip.last.sha256} />
        </Section>
      ) : null}
      {slip.chain.length > 1 ? (
        <Section title="How it is found">
          <ol>
            {slip.chain.map((d, i) => (
              <li key={d} className="truncate py-px" style={{ paddingLeft: i * 14 }} {...tip(d)}>
                {i > 0 ? <span className="text-faint">↳ </span> : null}
                {d.split("/").at(-1)}
              </li>
            ))}
          </ol>
        </Section>
      ) : null}
      {slip.uses.length > 0 ? (
        <Section title="Used in" aside={plural(slip.row.uses, "place")}>
          <ul>
            {slip.uses.map((u, i) => (
              <UseLine key={i} use={u} />
            ))}
            {slip.row.uses > slip.uses.length ? (
              <li className="py-0.5 text-faint">and {count(slip.row.uses - slip.uses.length)} more</li>
            ) : null}
          </ul>
        </Section>
      ) : null}
      {slip.beside.length > 0 ? (
        <Section title="Companions" aside={plural(slip.beside.length, "companion")}>
          <ul>
            {slip.beside.map((c) => (
              <li key={c.name} className="truncate py-0.5 font-mono text-[12px]" {...tip(c.found || c.name)}>
                {c.name}
                {c.found ? <span className="text-ochre"> left behind at {c.found}</span> : null}
                {c.gone ? <span className="text-ochre"> is gone</span> : null}
              </li>
            ))}
          </ul>
        </Section>
      ) : null}
      {slip.others.length > 0 ? (
        <Section title="Also needed elsewhere" aside={plural(slip.others.length, "document")}>
          <ul>
            {slip.others.map((u) => (
              <li key={u.document + u.role} className="py-0.5" {...tip(`${u.document}\ntraced ${when(u.at)}`)}>
                <span className="font-medium">{u.document.split("/").at(-1)}</span>{" "}
                <span className="text-[12px] text-faint">{[u.project, u.owner].filter(Boolean).join(" · ")}</span>
                {u.role === "write" ? <span className="text-[12px] text-ochre"> · writes to it</span> : null}
              </li>
            ))}
          </ul>
        </Section>
      ) : null}
      <Trouble error={plug.error ?? undo.error} />
      <Acts>
        {slip.drive ? (
          <Button kind="first" disabled={plug.isPending} onClick={() => plug.mutate(slip.driveId)}>
            Plug in {slip.drive}
          </Button>
        ) : null}
        {findable ? (
          <Button kind="first" hint="m" onClick={mend}>
            {slip.row.state === "twins" ? "Choose one" : "Find it"}
          </Button>
        ) : null}
        {slip.row.state === "away" ? <Another id={id} expected={slip.row.key} name={slip.row.name} /> : null}
        <div className="flex gap-2 *:flex-1">
          <Button hint="c" onClick={copy}>
            {copied === path ? "Copied" : "Copy path"}
          </Button>
          {slip.path ? (
            <Button disabled={reveal.isPending} onClick={() => reveal.mutate(slip.path)}>
              Open folder
            </Button>
          ) : null}
        </div>
        <Trouble error={reveal.error} onAway={reveal.reset} />
      </Acts>
    </>
  );
}

function UseLine({ use }: { use: Asker }) {
  return (
    <li className="py-0.5" style={{ paddingLeft: use.depth * 14 }} {...tip(`${use.document}\nwritten: ${use.written}`)}>
      {use.depth > 0 ? <span className="text-faint">↳ </span> : null}
      <span className="font-medium">{use.document.split("/").at(-1)}</span>{" "}
      <span className="text-[12px] text-faint">{use.owner}</span>
      {use.range ? (
        <span className="block font-mono text-[11.5px] text-faint" {...tip("part in use, in media time")}>
          {length(use.range.start)}{" "}
          {use.range.duration > 0 ? `– ${length(use.range.start + use.range.duration)}` : "to the end"}
        </span>
      ) : null}
      {use.use !== "used" ? <span className="text-[12px] text-ochre"> · {use.use}</span> : null}
    </li>
  );
}
