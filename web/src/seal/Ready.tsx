import type { Job, Left, Seal, Sealed, Stow, Summary } from "../api/types";
import { Gauge } from "../shared/Gauge";
import { SheetLink, TextLink } from "../shared/kit";
import { More, Section } from "../shared/parts";
import { PathActs } from "../shared/PathActs";
import { tip } from "../shared/Tip";
import { archive, bytes, count, load, plural, when } from "../shared/words";
import { Proof } from "./Proof";
import { Send } from "./Send";

/** Ready is the sheet of Seal: what will be sealed, or what was and what proves it. */
export function Ready({
  summary,
  stow,
  sealed,
  job,
}: {
  summary: Summary;
  stow: Stow;
  sealed: Sealed;
  job: Job | undefined;
}) {
  return (
    <div className="min-h-0 overflow-auto px-[18px] py-4" tabIndex={0} role="group" aria-label="The seal">
      <Interrupted job={job} archived={archive.test(stow.out)} />
      {sealed.report ? (
        <Result
          id={summary.project.id}
          document={summary.project.documents[0] ?? ""}
          sealed={sealed}
          rep={sealed.report}
        />
      ) : (
        <Before summary={summary} stow={stow} />
      )}
    </div>
  );
}

/** Interrupted says that the last sealing did not come to its end, and what that left. */
function Interrupted({ job, archived }: { job: Job | undefined; archived: boolean }) {
  if (job?.ended)
    return (
      <p role="status" className="mb-4 border-l-[3px] border-ochre bg-ochrewash px-3 py-2">
        <b className="font-semibold">The application ended while this was sealed.</b> Nothing incomplete stands under
        the crate’s name. {job.done > 0 ? `${bytes(job.done)} of ${bytes(job.total)} had been done. ` : ""}
        {archived
          ? "Seal again: the archive is written anew."
          : "Go on with the button on the right: what is copied already is not copied again."}
      </p>
    );
  if (job?.state === "failed")
    return (
      <div role="alert" className="mb-4 border-l-[3px] border-rust bg-rustwash px-3 py-2">
        <b className="font-semibold">The crate was not sealed.</b> {job.error}
      </div>
    );
  if (job?.state === "stopped")
    return (
      <p className="mb-4 border-l-[3px] border-ochre bg-ochrewash px-3 py-2">
        The last seal was stopped. Its unfinished files were deleted.
      </p>
    );
  return null;
}

/** Result is the report of a crate that was sealed. */
function Result({ id, document, sealed, rep }: { id: number; document: string; sealed: Sealed; rep: Seal }) {
  const omitted = sealed.omitted > 0 && sealed.omitted === sealed.all.problems;
  const older = sealed.stale.length > 0 || !sealed.there;
  return (
    <>
      <h2 className={`text-[24px] ${sealed.well ? (older ? "text-ochre" : "text-moss") : "text-rust"}`}>
        {sealed.well
          ? older
            ? "Proved complete when sealed"
            : "Sealed and proved complete"
          : omitted
            ? `Sealed · ${plural(sealed.omitted, "file")} left out on purpose`
            : "Sealed, but not complete"}
      </h2>
      <p className="mb-3">
        <span className="font-mono text-[12px] break-words">{sealed.label}</span>
        {sealed.at ? <span className="text-faint">, {when(sealed.at)}</span> : null}
        {rep.parts.length > 1 ? ` and ${plural(rep.parts.length - 1, "more part")} beside it` : ""}
        {sealed.there ? "" : <b className="text-rust"> It is no longer there.</b>}
      </p>
      <Stale files={sealed.stale} />
      {sealed.there && rep.crate ? <PathActs path={rep.crate} /> : null}
      {sealed.sheet ? (
        <p className="mb-2">
          <SheetLink href={`/api/projects/${id}/sheet`} />
          {sealed.there && rep.crate ? (
            <>
              {" · "}
              <TextLink to={`/compare?${new URLSearchParams({ a: rep.crate, b: document }).toString()}`}>
                Compare with the project now
              </TextLink>
            </>
          ) : null}
        </p>
      ) : null}
      <Proof lines={sealed.proof} />
      {sealed.there && rep.crate ? <Send id={id} crate={rep.crate} /> : null}
      {rep.problems.length > 0 ? (
        <Section title={omitted ? "Left out on purpose" : "Not complete"} aside={count(sealed.all.problems)}>
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
      {rep.renamed.length > 0 ? <Renamed renamed={rep.renamed} all={sealed.all.renamed} /> : null}
    </>
  );
}

/** Stale names the sources that changed since the crate was sealed. */
function Stale({ files }: { files: readonly string[] }) {
  if (files.length === 0) return null;
  return (
    <div className="mb-3 border-l-[3px] border-ochre bg-ochrewash px-3 py-2">
      <b className="font-semibold">{plural(files.length, "source has", "sources have")} changed since.</b> The crate
      holds the earlier contents. Seal again to include the changes.
      <ul>
        {files.slice(0, 8).map((f) => (
          <li key={f} className="truncate font-mono text-[12px]" {...tip(f)}>
            {f}
          </li>
        ))}
        {files.length > 8 ? <li className="text-[12px]">and {files.length - 8} more</li> : null}
      </ul>
    </div>
  );
}

function Renamed({ renamed, all }: { renamed: Seal["renamed"]; all: number }) {
  return (
    <Section title="Renamed in the crate" aside={count(all)}>
      <ul>
        {renamed.map((r) => (
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
        <More of={renamed} all={all} />
      </ul>
    </Section>
  );
}

/** Before says what will be sealed, and whether that is everything. */
function Before({ summary, stow }: { summary: Summary; stow: Stow }) {
  return (
    <>
      <h2 className="text-[24px]">Ready to seal</h2>
      <p className="mb-4 max-w-[64ch]">
        {plural(stow.files, "file")} and {load(stow)} will be copied and read back. The documents in the crate will use
        relative paths, and the crate is traced by itself as proof. The originals are only read.
      </p>
      {summary.pending > 0 ? (
        <p className="max-w-[64ch] border-l-[3px] border-rust bg-rustwash px-3 py-2">
          <b className="font-semibold">{plural(summary.pending, "used reference")} will not be complete.</b> The crate
          can still be sealed; it will list what is missing. To make it complete, go to Mend first.
        </p>
      ) : (
        <p className="max-w-[64ch] border-l-[3px] border-moss bg-mosswash px-3 py-2">
          All files in use were found
          {summary.suspect > 0
            ? `; ${plural(summary.suspect, "file")} may be damaged or the wrong one, and ${summary.suspect === 1 ? "is" : "are"} copied unchanged`
            : ""}
          . After sealing, the crate is checked against this list.
        </p>
      )}
      {stow.saying ? <p className="mt-3 text-faint">The documents for the crate are still being prepared.</p> : null}
      {stow.all.problems + stow.unheard > 0 ? (
        <p className="mt-3 max-w-[64ch] border-l-[3px] border-ochre px-3 py-1">
          {stow.all.problems > 0 ? (
            <TextLink to="../stow">{plural(stow.all.problems, "thing")} to check in Stow</TextLink>
          ) : null}
          {stow.unheard > 0 ? ` ${plural(stow.unheard, "sound")} to be converted will be checked first.` : null}
        </p>
      ) : null}
      <Section title="Contents" aside={`${plural(stow.files, "file")}, ${load(stow)}`}>
        <Gauge loads={stow.kinds.map((k) => ({ kind: k.kind, name: k.word, bytes: k.bytes }))} limits={stow.limits} />
      </Section>
      {stow.left.length > 0 ? <LeftOut left={stow.left} all={stow.all.left} /> : null}
    </>
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
