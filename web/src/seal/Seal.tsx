import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import {
  choosing,
  useAct,
  useAppState,
  useChoices,
  useProjectID,
  useSealed,
  useStow,
  useSummary,
} from "../api/queries";
import type { Job, Left, Sealed, SealRequest, Stow, Summary } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { Under } from "../frame/Under";
import { Confirm } from "../shared/Confirm";
import { FolderPicker } from "../shared/FolderPicker";
import { Gauge } from "../shared/Gauge";
import { Field, TextLink } from "../shared/kit";
import { Button, Chip, More, Section, Trouble, Waiting } from "../shared/parts";
import { Choose } from "../shared/Choose";
import { tip } from "../shared/Tip";
import { bytes, exact, load, plural, timeLeft, when, count } from "../shared/words";
import { Strip } from "../recipes/Strip";
import { Proof } from "./Proof";

const carriers = [
  ["", "folder"],
  [".zip", "ZIP"],
  [".tar", "TAR"],
  [".tar.gz", "TAR, gzip"],
  [".tar.zst", "TAR, zstd"],
] as const;

/** Seal: make it, and prove it. */
export function Seal() {
  const id = useProjectID();
  const { data: summary } = useSummary(id);
  const { data: stow, error } = useStow(id);
  const { data: sealed } = useSealed(id);
  const { data: state } = useAppState();
  const job = state?.jobs.find((j) => j.kind === "seal" && j.project === id);
  let sheet;
  if (error)
    sheet = (
      <div className="p-6">
        <Trouble error={error} />
      </div>
    );
  else if (!stow || !sealed || !summary) sheet = <Waiting what="Asking what would be sealed." />;
  else if (job?.state === "running")
    sheet = (
      <Under job={job} says="Every byte is copied once and read back once. You can leave this page; it goes on.">
        <Pace job={job} />
      </Under>
    );
  else
    sheet = (
      <>
        <Strip id={id} stow={stow} />
        <Ready summary={summary} stow={stow} sealed={sealed} job={job} />
      </>
    );
  return (
    <Station
      name="Seal"
      slipName="Where it goes"
      sheet={sheet}
      slip={
        stow && summary ? (
          <Where
            key={`${id}${stow.out}`}
            id={id}
            stow={stow}
            summary={summary}
            busy={job?.state === "running"}
            again={sealed?.report != null}
          />
        ) : null
      }
    />
  );
}

/** Pace tells how far sealing is, in bytes. */
function Pace({ job }: { job: Job }) {
  return (
    <dl className="mt-4 grid grid-cols-[110px_1fr] gap-y-1">
      <dt className="text-faint">now</dt>
      <dd>{job.step}</dd>
      <dt className="text-faint">done</dt>
      <dd className="font-mono text-[12px]">
        {exact(job.done)} of {exact(job.total)}
      </dd>
      <dt className="text-faint">rate</dt>
      <dd className="font-mono text-[12px]">{job.rate > 0 ? `${bytes(Math.round(job.rate))} a second` : "—"}</dd>
      <dt className="text-faint">time left</dt>
      <dd className="font-mono text-[12px]">{job.left > 0 ? timeLeft(job.left) : "—"}</dd>
    </dl>
  );
}

function Ready({ summary, stow, sealed, job }: { summary: Summary; stow: Stow; sealed: Sealed; job: Job | undefined }) {
  const rep = sealed.report;
  const older = sealed.stale.length > 0 || !sealed.there;
  return (
    <div className="min-h-0 overflow-auto px-[18px] py-4" tabIndex={0} role="group" aria-label="The seal">
      {job?.state === "failed" ? (
        <div role="alert" className="mb-4 border-l-[3px] border-rust bg-rustwash px-3 py-2">
          <b className="font-semibold">It was not sealed.</b> {job.error}
        </div>
      ) : null}
      {job?.state === "stopped" ? (
        <p className="mb-4 border-l-[3px] border-ochre bg-ochrewash px-3 py-2">
          The last seal was stopped. What had been written was taken away again.
        </p>
      ) : null}
      {rep ? (
        <>
          <h2 className={`text-[24px] ${sealed.well ? (older ? "text-ochre" : "text-moss") : "text-rust"}`}>
            {sealed.well
              ? older
                ? "Proved complete when it was sealed"
                : "Sealed and proved complete"
              : "Sealed, and not complete"}
          </h2>
          <p className="mb-3">
            <span className="font-mono text-[12px] break-words">{sealed.label}</span>
            {sealed.at ? <span className="text-faint">, {when(sealed.at)}</span> : null}
            {rep.parts.length > 1 ? ` and ${plural(rep.parts.length - 1, "more part")} beside it` : ""}
            {sealed.there ? "" : <b className="text-rust"> It does not stand there any more.</b>}
          </p>
          {sealed.stale.length > 0 ? (
            <div className="mb-3 border-l-[3px] border-ochre bg-ochrewash px-3 py-2">
              <b className="font-semibold">
                {plural(sealed.stale.length, "source has", "sources have")} changed since.
              </b>{" "}
              The crate holds what was there when it was sealed; seal it again to take along what is there now.
              <ul>
                {sealed.stale.slice(0, 8).map((f) => (
                  <li key={f} className="truncate font-mono text-[12px]" {...tip(f)}>
                    {f}
                  </li>
                ))}
                {sealed.stale.length > 8 ? <li className="text-[12px]">and {sealed.stale.length - 8} more</li> : null}
              </ul>
            </div>
          ) : null}
          <Proof lines={sealed.proof} />
          {rep.problems.length > 0 ? (
            <Section title="Not complete" aside={count(sealed.all.problems)}>
              <ul>
                {rep.problems.map((p, i) => (
                  <li key={i} className="border-b border-hair py-1">
                    <span className="block truncate font-mono text-[12px] text-faint" {...tip(p.path)}>
                      {p.path.split("/").slice(-2).join("/")}
                    </span>
                    {p.message}
                    {p.do ? `. ${p.do}` : ""}
                  </li>
                ))}
                <More of={rep.problems} all={sealed.all.problems} />
              </ul>
            </Section>
          ) : null}
          {rep.left.length > 0 ? <LeftOut left={rep.left} all={sealed.all.left} /> : null}
          {rep.renamed.length > 0 ? (
            <Section title="Under another name in the crate" aside={count(sealed.all.renamed)}>
              <ul>
                {rep.renamed.map((r) => (
                  <li
                    key={r.from}
                    className="grid grid-cols-[minmax(0,1fr)_16px_minmax(0,1fr)] gap-2 border-b border-hair py-1 font-mono text-[12px]"
                  >
                    <span className="truncate text-faint" {...tip(r.from)}>
                      {r.from.split("/").slice(-2).join("/")}
                    </span>
                    <span className="text-faint">→</span>
                    <span className="truncate">{r.to}</span>
                  </li>
                ))}
                <More of={rep.renamed} all={sealed.all.renamed} />
              </ul>
            </Section>
          ) : null}
        </>
      ) : (
        <>
          <h2 className="text-[24px]">Ready to seal</h2>
          <p className="mb-4 max-w-[64ch]">
            {plural(stow.files, "file")} and {load(stow)} are copied, the documents in the crate name them relative to
            themselves, every byte is read back, and the crate is traced with nothing else reachable. The originals are
            only read.
          </p>
          {summary.pending > 0 ? (
            <p className="max-w-[64ch] border-l-[3px] border-rust bg-rustwash px-3 py-2">
              <b className="font-semibold">{plural(summary.pending, "used reference")} would not be complete.</b> The
              crate can be sealed all the same and will say so; places are kept for what is missing. Mend first if it is
              to be complete.
            </p>
          ) : (
            <p className="max-w-[64ch] border-l-[3px] border-moss bg-mosswash px-3 py-2">
              Every used reference is found
              {summary.suspect > 0
                ? `; ${plural(summary.suspect, "file")} may be damaged or the wrong one, and ${summary.suspect === 1 ? "goes" : "go"} as ${summary.suspect === 1 ? "it is" : "they are"}`
                : ""}
              . The crate is proved against that once it is sealed.
            </p>
          )}
          {stow.saying ? (
            <p className="mt-3 text-faint">What the documents will say in the crate is still being worked out.</p>
          ) : null}
          {stow.all.problems + stow.unheard > 0 ? (
            <p className="mt-3 max-w-[64ch] border-l-[3px] border-ochre px-3 py-1">
              {stow.all.problems > 0 ? (
                <TextLink to="../stow">{plural(stow.all.problems, "thing")} to look at in Stow</TextLink>
              ) : null}
              {stow.unheard > 0
                ? ` ${plural(stow.unheard, "sound")} that ${stow.unheard === 1 ? "is" : "are"} made anew will be listened to first.`
                : null}
            </p>
          ) : null}
          <Section title="The load" aside={`${plural(stow.files, "file")}, ${load(stow)}`}>
            <Gauge
              loads={stow.kinds.map((k) => ({ kind: k.kind, name: k.word, bytes: k.bytes }))}
              limits={stow.limits}
            />
          </Section>
          {stow.left.length > 0 ? <LeftOut left={stow.left} all={stow.all.left} /> : null}
        </>
      )}
    </div>
  );
}

function LeftOut({ left, all }: { left: Left[]; all: number }) {
  return (
    <Section title="Left out" aside={count(all)}>
      <ul>
        {left.map((l) => (
          <li key={l.path + l.why} className="flex justify-between gap-4 border-b border-hair py-1">
            <span className="truncate font-mono text-[12px]" {...tip(l.path)}>
              {l.path.split("/").slice(-2).join("/")}
            </span>
            <span className="text-[12px] whitespace-nowrap text-faint">{l.why}</span>
          </li>
        ))}
        <More of={left} all={all} />
      </ul>
    </Section>
  );
}

function Where({
  id,
  stow,
  summary,
  busy,
  again,
}: {
  id: number;
  stow: Stow;
  summary: Summary;
  busy: boolean;
  again: boolean;
}) {
  const { data: state } = useAppState();
  const was = stow.out;
  const ending = carriers.map(([e]) => e).find((e) => e !== "" && was.endsWith(e)) ?? "";
  const home = summary.project.root.split("/").slice(0, -1).join("/");
  const slash = was.lastIndexOf("/");
  const [dir, setDir] = useState(
    was ? was.slice(0, slash) : (state?.drives.find((d) => d.connected && home.startsWith(d.dir))?.dir ?? ""),
  );
  const [name, setName] = useState(
    was ? was.slice(slash + 1, was.length - ending.length) : `${summary.project.name} crate`,
  );
  const [carrier, setCarrier] = useState<string>(ending);
  const [note, setNote] = useState(stow.note);
  const [asking, setAsking] = useState(false);
  const out = dir && name.trim() ? `${dir}/${name.trim()}${carrier}` : "";
  const { data: there } = useQuery({
    ...acts.destination(id, { out }),
    enabled: out !== "",
  });
  const o = stow.options;
  const set = useChoices(id);
  const seal = useAct((r: SealRequest) => acts.seal(id, r), undefined, choosing(id));
  return (
    <>
      <h2 className="text-[22px]">Where it goes</h2>
      <Section title="Folder" aside="outside the project's own">
        <FolderPicker start={dir} onFolder={(p) => setDir(p)} low />
      </Section>
      <Section title="Name and form">
        <Field
          aria-label="Name of the crate"
          className="w-full"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <div className="mt-2">
          <Choose
            label="Form"
            value={carrier || "folder"}
            onChoose={(v) => setCarrier(v === "folder" ? "" : v)}
            choices={carriers.map(([ending, word]) => ({ value: ending || "folder", word }))}
          />
        </div>
        <div className="mt-2 flex flex-wrap items-center gap-2 text-[12px] text-faint">
          <Chip
            on={o.sha512}
            onClick={() => set.mutate({ sha512: !o.sha512 })}
            why="Manifests of SHA-512 beside those of SHA-256, for receivers who ask for it. Sealing takes longer."
          >
            SHA-512 too
          </Chip>
          {carrier ? (
            <Kept
              before="parts of at most"
              after="MB"
              name="Megabytes of each part at most"
              value={o.parts > 0 ? String(o.parts / 1e6) : ""}
              empty="no limit"
              className="w-18 text-right"
              onChange={(v) => set.mutate({ parts: Math.round(Number(v.replace(",", ".")) * 1e6) || 0 })}
            />
          ) : null}
        </div>
        <Trouble error={set.error} />
      </Section>
      <Section title="A note for whoever receives it">
        <textarea
          aria-label="Note"
          className="h-16 w-full resize-none rounded-xs border border-rule bg-field px-2 py-1 text-ink"
          value={note}
          onChange={(e) => setNote(e.target.value)}
          placeholder="It goes into READ ME.txt as you write it."
        />
        <div className="mt-1 grid grid-cols-2 gap-2 text-[12px] text-faint">
          <Kept
            before="for"
            name="For whom"
            value={o.for}
            className="min-w-0 flex-1"
            onChange={(v) => set.mutate({ for: v })}
          />
          <Kept
            before="from"
            name="From whom"
            value={o.from}
            className="min-w-0 flex-1"
            onChange={(v) => set.mutate({ from: v })}
          />
        </div>
      </Section>
      {there ? (
        there.ok ? (
          <p className="mt-3 text-[12px] text-ink2">
            <span className="font-mono break-words">{there.label}</span>
            <br />
            needs {bytes(there.needs)}, {bytes(there.free)} free
            {there.again ? "; the earlier crate there is replaced once the new one is whole" : ""}
          </p>
        ) : (
          <Trouble error={new Error(there.why)} />
        )
      ) : null}
      <Trouble error={seal.error} />
      <Acts>
        <Button
          kind="first"
          disabled={busy || seal.isPending || !there?.ok}
          onClick={() =>
            there?.same ? setAsking(true) : seal.mutate({ snapshot: stow.snapshot, out, note, despite: false })
          }
        >
          {busy ? "Sealing" : again ? "Seal it again" : "Seal it"}
        </Button>
      </Acts>
      <Confirm
        open={asking}
        onClose={() => setAsking(false)}
        title="An archive on the project’s own drive?"
        act="Seal it there all the same"
        onAct={() => {
          setAsking(false);
          seal.mutate({ snapshot: stow.snapshot, out, note, despite: true });
        }}
      >
        <p>
          This crate gives nothing up, so it can stand for the project. On the same drive it goes when the drive goes:
          as a backup it belongs on another one.
        </p>
      </Confirm>
    </>
  );
}

/** Kept is a choice that is typed; leaving it or Enter keeps it. */
function Kept({
  before,
  after,
  name,
  value,
  empty = "",
  className,
  onChange,
}: {
  before?: string;
  after?: string;
  name: string;
  value: string;
  empty?: string;
  className: string;
  onChange: (v: string) => void;
}) {
  const [text, setText] = useState(value);
  const [was, setWas] = useState(value);
  if (was !== value) {
    setWas(value);
    setText(value);
  }
  const field = (
    <input
      aria-label={name}
      value={text}
      placeholder={empty}
      onChange={(e) => setText(e.target.value)}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      onBlur={() => text.trim() !== value && onChange(text.trim())}
      className={`rounded-xs border border-rule bg-field px-1.5 py-0.5 text-ink ${className}`}
    />
  );
  return (
    <label className="flex min-w-0 items-center gap-1.5">
      {before} {field} {after}
    </label>
  );
}
