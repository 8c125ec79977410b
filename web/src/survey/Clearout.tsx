import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import * as acts from "../api/acts";
import { useAct, useAppState } from "../api/queries";
import type { AskClearout, Cleared as Answer, HeldRow, Hold } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { CameOf } from "../frame/Under";
import { Choose } from "../shared/Choose";
import { Confirm } from "../shared/Confirm";
import { FolderPicker } from "../shared/FolderPicker";
import { Field } from "../shared/kit";
import { Badge, Button, Empty, Section, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { bytes, plural, when } from "../shared/words";

/** Clearout: may a folder go? Everybody on the drives is asked. */
export function Clearout() {
  const { data: state } = useAppState();
  const [folder, setFolder] = useState({ path: "", label: "" });
  const [jobID, setJob] = useState("");
  const [reasons, setReasons] = useState<Record<string, string>>({});
  const [days, setDays] = useState("30");
  const [asking, setAsking] = useState(false);
  const [round, setRound] = useState(0); // the folder that was chosen is not there any more
  const start = useAct(
    (r: AskClearout) => acts.clearout(r),
    (out) => {
      setJob(out.job.id);
      setReasons({});
    },
  );
  const job = state?.jobs.find((j) => j.id === jobID);
  const { data: answer } = useQuery({
    ...acts.clearedOut(jobID),
    enabled: job?.state === "done",
  });
  const busy = job?.state === "running";
  const hold = useAct(
    (r: Hold) => acts.hold(jobID, r),
    () => {
      setAsking(false);
      setJob("");
      setFolder({ path: "", label: "" });
      setRound((n) => n + 1);
    },
  );
  const open = answer ? answer.needy.filter((of) => !reasons[of]?.trim()) : [];
  const sheet = (
    <CameOf
      job={job}
      says="Searching every drive and reading every document that changed since the last check."
      stopped="Stopped. No result."
      before={
        <div className="min-h-0 overflow-auto" tabIndex={0} role="group" aria-label="Clear out">
          <div className="h-56">
            <Empty title="Can this folder be removed?">
              Choose a folder on the right. Bound Crate checks whether any document on the drives reads from it, writes
              to it, or has its only copy there. Nothing is moved or deleted.
            </Empty>
          </div>
          <Waits />
        </div>
      }
      answer={
        answer ? (
          <Verdict of={answer} reasons={reasons} onReason={(of, why) => setReasons({ ...reasons, [of]: why })} />
        ) : null
      }
    />
  );
  return (
    <Station
      name="Clear out"
      slipName="Folder"
      sheet={sheet}
      slip={
        <>
          <h2 className="text-[22px]">Clear out</h2>
          <Section title="The folder">
            <FolderPicker key={round} onFolder={(path, label) => setFolder({ path, label })} />
          </Section>
          <Trouble error={start.error} />
          <Acts>
            <p className="truncate font-mono text-[12px] text-faint" {...tip(folder.path)}>
              {folder.path ? folder.label || folder.path.split("/").at(-1) : "no folder chosen"}
            </p>
            {answer ? (
              <>
                <p className="text-[12.5px] text-ink2">
                  {open.length > 0
                    ? `${plural(open.length, "use has", "uses have")} to be resolved: relink them, or give reasons to ignore them.`
                    : "The folder can be moved to the holding folder of its drive. Nothing is erased; you can bring it back."}
                </p>
                <Button disabled={open.length > 0 || busy} onClick={() => setAsking(true)}>
                  Move to holding folder
                </Button>
              </>
            ) : null}
            <Button
              kind="first"
              disabled={!folder.path || busy || start.isPending}
              onClick={() => start.mutate({ folder: folder.path })}
            >
              Check folder
            </Button>
          </Acts>
          <Confirm
            open={asking}
            onClose={() => setAsking(false)}
            title="Move to holding folder?"
            act="Move to holding folder"
            busy={hold.isPending}
            onAct={() =>
              hold.mutate({
                days: Number(days),
                reasons: Object.entries(reasons).map(([of, why]) => ({ of, why })),
              })
            }
          >
            <p className="mb-3">
              {answer?.label} · {plural(answer?.files ?? 0, "file")} · {bytes(answer?.bytes ?? 0)}. The folder is
              renamed within its drive; nothing is copied. Documents that use files in it will miss them until it is
              brought back.
            </p>
            <div className="flex items-center gap-2">
              <span className="text-[12.5px] text-ink2">Keep for at least</span>
              <Choose
                label="Keep for at least"
                value={days}
                onChoose={setDays}
                choices={[
                  { value: "7", word: "a week" },
                  { value: "30", word: "30 days" },
                  { value: "90", word: "90 days" },
                  { value: "365", word: "a year" },
                ]}
              />
            </div>
            <Trouble error={hold.error} />
          </Confirm>
        </>
      }
    />
  );
}

/** Waits lists what was taken out of the way, and brings it back. */
function Waits() {
  const { data } = useQuery(acts.held());
  const [erasing, setErasing] = useState<HeldRow | null>(null);
  const back = useAct((id: number) => acts.bringBack(id));
  const erase = useAct(
    (id: number) => acts.erase(id),
    () => setErasing(null),
  );
  if (!data || data.list.length === 0) return null;
  return (
    <div className="px-[18px] pb-6">
      <Section title="In the holding folder" aside={plural(data.list.length, "folder")}>
        <ul>
          {data.list.map((h) => (
            <li key={h.id} className="flex items-center gap-3 border-b border-hair py-1.5">
              <span className="min-w-0 flex-1">
                <span className="block truncate font-mono text-[12.5px]" {...tip(h.label)}>
                  {h.label}
                </span>
                <span
                  className="block truncate text-[12px] text-faint"
                  {...tip(h.reasons.map((r) => `${r.of}: ${r.why}`).join("\n"))}
                >
                  {plural(h.files, "file")} · {bytes(h.bytes)} · since {when(h.since)} ·{" "}
                  {h.over ? "can be erased" : `kept until ${when(h.until)}`}
                  {h.there ? "" : " · drive not connected, or folder moved"}
                </span>
              </span>
              <Button kind="small" disabled={!h.there || back.isPending} onClick={() => back.mutate(h.id)}>
                Bring back
              </Button>
              {h.over ? (
                <Button kind="small" disabled={!h.there} onClick={() => setErasing(h)}>
                  Erase
                </Button>
              ) : null}
            </li>
          ))}
        </ul>
        <Trouble error={back.error} />
      </Section>
      <Confirm
        open={erasing !== null}
        onClose={() => setErasing(null)}
        title="Erase permanently?"
        act="Erase"
        busy={erase.isPending}
        onAct={() => erasing && erase.mutate(erasing.id)}
      >
        <p>
          {erasing?.label}: {plural(erasing?.files ?? 0, "file")}, {bytes(erasing?.bytes ?? 0)}. This cannot be undone.
        </p>
        <Trouble error={erase.error} />
      </Confirm>
    </div>
  );
}

/** Answered is a line in which one says why somebody's need does not count. */
function Answered({ of, reasons, onReason }: { of: string } & Answering) {
  return (
    <Field
      low
      className="mt-1 w-full text-[12px]"
      placeholder="ignore because …"
      aria-label={`Reason to ignore ${of}`}
      value={reasons[of] ?? ""}
      onChange={(e) => onReason(of, e.target.value)}
    />
  );
}

interface Answering {
  reasons: Record<string, string>;
  onReason: (of: string, why: string) => void;
}

/** Mends leads to where a document's need is mended. */
function Mends({ project, to, say }: { project: number | undefined; to: string; say: string }) {
  if (!project) return null;
  return (
    <Link to={`/p/${project}/${to}`} className="shrink-0 text-[12px] text-sea underline underline-offset-2">
      {say}
    </Link>
  );
}

/** Verdict says whether the folder may go, and who would lose what. */
function Verdict({ of: a, reasons, onReason }: { of: Answer } & Answering) {
  const needed = a.readBy.length + a.writtenBy.length > 0;
  const readers = new Map<string, Answer["readBy"]>();
  for (const r of a.readBy) readers.set(r.document, [...(readers.get(r.document) ?? []), r]);
  return (
    <div className="min-h-0 overflow-auto px-[18px] py-4" tabIndex={0} role="group" aria-label="Result">
      <h2 className={`text-[24px] ${a.safe ? "text-moss" : needed ? "text-rust" : "text-ochre"}`}>
        {a.safe ? "Safe to remove" : needed ? "Not safe to remove" : "No known document needs it"}
      </h2>
      <p className="mb-1 font-mono text-[12px] break-words text-ink2">
        {a.label} · {plural(a.files, "file")} · {bytes(a.bytes)}
      </p>
      <p className="mb-3">
        {a.safe
          ? `None of ${plural(a.read, "document")} on the drives reads from it or writes to it. All of them could be read.`
          : !needed
            ? "Some documents or folders could not be read, so this is not proved safe."
            : `${readers.size === 0 ? "No document reads" : plural(readers.size, "document reads", "documents read")} from it, ${a.writtenBy.length > 0 ? plural(a.writtenBy.length, "place writes", "places write") : "none writes"} to it.`}{" "}
        <span className="text-faint">Checked {when(a.at)}.</span>
      </p>
      {a.onlyCopies.length > 0 ? (
        <Section title="Used, with no other copy" aside={plural(a.onlyCopies.length, "file")}>
          <Paths of={a.onlyCopies} />
        </Section>
      ) : null}
      {readers.size > 0 ? (
        <Section title="Reads from it" aside={plural(readers.size, "document")}>
          <ul>
            {[...readers].map(([doc, list]) => (
              <li key={doc} className="border-b border-hair py-1.5">
                <span className="flex items-baseline gap-3">
                  <span className="truncate font-medium" {...tip(doc)}>
                    {doc}
                  </span>
                  <Mends project={a.owned[doc]} to="trace" say="copy into the project" />
                  <Mends project={a.owned[doc]} to="mend" say="relink" />
                </span>
                <ul>
                  {list.slice(0, 20).map((r) => (
                    <li key={r.path} className="flex items-baseline gap-2 pl-4">
                      <span className="truncate font-mono text-[12px]" {...tip(r.path)}>
                        {r.path.slice(a.label.length + 1)}
                      </span>
                      <span className="shrink-0 text-[12px] text-faint">{r.owner}</span>
                      <span className="flex-1" />
                      {r.elsewhere.length > 0 ? (
                        <span className="max-w-[50%] truncate text-[12px] text-faint" {...tip(r.elsewhere.join("\n"))}>
                          same content: {r.elsewhere[0]}
                        </span>
                      ) : (
                        <Badge tone="rust">only copy</Badge>
                      )}
                    </li>
                  ))}
                  {list.length > 20 ? (
                    <li className="pl-4 text-[12px] text-faint">and {list.length - 20} more</li>
                  ) : null}
                </ul>
                <Answered of={doc} reasons={reasons} onReason={onReason} />
              </li>
            ))}
          </ul>
        </Section>
      ) : null}
      {a.writtenBy.length > 0 ? (
        <Section title="Writes to it" aside={plural(a.writtenBy.length, "place")}>
          <ul>
            {a.writtenBy.map((w) => (
              <li key={w.document + w.owner} className="border-b border-hair py-1">
                <span className="flex items-baseline gap-3">
                  <span className="truncate font-medium" {...tip(w.document)}>
                    {w.document}
                  </span>
                  <Mends project={a.owned[w.document]} to="points" say="change to the project folder" />
                </span>
                <span className="pl-4 font-mono text-[12px]">{w.path}</span>{" "}
                <span className="text-[12px] text-faint">{w.owner}</span>
                <Answered of={w.document} reasons={reasons} onReason={onReason} />
              </li>
            ))}
          </ul>
        </Section>
      ) : null}
      {a.left.length > 0 ? (
        <Section title="Could not be read" aside={String(a.left.length)}>
          <p className="mb-1 text-ink2">These could not be checked and may use this folder.</p>
          <ul>
            {a.left.map((u) => (
              <li key={u.path} className="border-b border-hair py-1">
                <span className="flex justify-between gap-4">
                  <span className="truncate font-mono text-[12px]" {...tip(u.path)}>
                    {u.path}
                  </span>
                  <span className="text-[12px] text-faint">{u.why}</span>
                </span>
                <Answered of={u.path} reasons={reasons} onReason={onReason} />
              </li>
            ))}
          </ul>
        </Section>
      ) : null}
      {a.documents.length > 0 ? (
        <Section title="Documents in this folder" aside={String(a.documents.length)}>
          <Paths of={a.documents} />
        </Section>
      ) : null}
    </div>
  );
}

function Paths({ of }: { of: string[] }) {
  return (
    <ul>
      {of.map((p) => (
        <li key={p} className="truncate border-b border-hair py-1 font-mono text-[12px]" {...tip(p)}>
          {p}
        </li>
      ))}
    </ul>
  );
}
