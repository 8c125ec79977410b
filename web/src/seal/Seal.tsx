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
import type { Destination, Drive, Job, Left, StowOptions, Sealed, SealRequest, Stow, Summary } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { Under } from "../frame/Under";
import { Confirm } from "../shared/Confirm";
import { FolderPicker } from "../shared/FolderPicker";
import { PathActs } from "../shared/PathActs";
import { Gauge } from "../shared/Gauge";
import { Field, SheetLink, TextLink } from "../shared/kit";
import { Button, Chip, More, Section, Trouble, Waiting } from "../shared/parts";
import { Choose } from "../shared/Choose";
import { tip } from "../shared/Tip";
import { archive, bytes, exact, load, plural, timeLeft, when, count } from "../shared/words";
import { Strip } from "../recipes/Strip";
import { Proof } from "./Proof";
import { Send } from "./Send";
import { Since } from "./Since";

const carriers = [
  ["", "folder"],
  [".zip", "ZIP"],
  [".tar", "TAR"],
  [".tar.gz", "TAR, gzip"],
  [".tar.zst", "TAR, zstd"],
] as const;

type ListKind = StowOptions["lists"][number];

const listNames = [
  [
    "ro-crate",
    "RO-Crate",
    "Metadata for archives and repositories (RO-Crate 1.1): every file with size, type and SHA-256.",
  ],
  ["mhl", "hash list", "A media hash list (ASC MHL 2.0), as used for camera and sound originals."],
] as const;

/** Lists are those that others read the crate by. */
function Lists({ id, lists }: { id: number; lists: readonly ListKind[] }) {
  const set = useChoices(id);
  return listNames.map(([kind, word, why]) => (
    <Chip
      key={kind}
      on={lists.includes(kind)}
      onClick={() => set.mutate({ lists: lists.includes(kind) ? lists.filter((k) => k !== kind) : [...lists, kind] })}
      why={why}
    >
      add {word}
    </Chip>
  ));
}

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
  else if (!stow || !sealed || !summary) sheet = <Waiting what="Loading." />;
  else if (job?.state === "running")
    sheet = (
      <Under
        job={job}
        says="Every byte is copied once and read back once. You can leave this page; the work continues."
      >
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
      slipName="Destination"
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
            ended={job?.ended ?? false}
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
        {job.of > 0 ? ` · ${count(job.files)} of ${plural(job.of, "file")}` : ""}
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
  const omitted = sealed.omitted > 0 && sealed.omitted === sealed.all.problems;
  const older = sealed.stale.length > 0 || !sealed.there;
  return (
    <div className="min-h-0 overflow-auto px-[18px] py-4" tabIndex={0} role="group" aria-label="The seal">
      {job?.ended ? (
        <p role="status" className="mb-4 border-l-[3px] border-ochre bg-ochrewash px-3 py-2">
          <b className="font-semibold">The application ended while this was sealed.</b> Nothing incomplete stands under
          the crate’s name. {job.done > 0 ? `${bytes(job.done)} of ${bytes(job.total)} had been done. ` : ""}
          {archive.test(stow.out)
            ? "Seal again: the archive is written anew."
            : "Go on with the button on the right: what is copied already is not copied again."}
        </p>
      ) : job?.state === "failed" ? (
        <div role="alert" className="mb-4 border-l-[3px] border-rust bg-rustwash px-3 py-2">
          <b className="font-semibold">The crate was not sealed.</b> {job.error}
        </div>
      ) : null}
      {job?.state === "stopped" ? (
        <p className="mb-4 border-l-[3px] border-ochre bg-ochrewash px-3 py-2">
          The last seal was stopped. Its unfinished files were deleted.
        </p>
      ) : null}
      {rep ? (
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
          {sealed.stale.length > 0 ? (
            <div className="mb-3 border-l-[3px] border-ochre bg-ochrewash px-3 py-2">
              <b className="font-semibold">
                {plural(sealed.stale.length, "source has", "sources have")} changed since.
              </b>{" "}
              The crate holds the earlier contents. Seal again to include the changes.
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
          {sealed.there && rep.crate ? <PathActs path={rep.crate} /> : null}
          {sealed.sheet ? (
            <p className="mb-2">
              <SheetLink href={`/api/projects/${summary.project.id}/sheet`} />
              {sealed.there && rep.crate ? (
                <>
                  {" · "}
                  <TextLink
                    to={`/compare?${new URLSearchParams({ a: rep.crate, b: summary.project.documents[0] ?? "" }).toString()}`}
                  >
                    Compare with the project now
                  </TextLink>
                </>
              ) : null}
            </p>
          ) : null}
          <Proof lines={sealed.proof} />
          {sealed.there && rep.crate ? <Send id={summary.project.id} crate={rep.crate} /> : null}
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
          {rep.renamed.length > 0 ? (
            <Section title="Renamed in the crate" aside={count(sealed.all.renamed)}>
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
            {plural(stow.files, "file")} and {load(stow)} will be copied and read back. The documents in the crate will
            use relative paths, and the crate is traced by itself as proof. The originals are only read.
          </p>
          {summary.pending > 0 ? (
            <p className="max-w-[64ch] border-l-[3px] border-rust bg-rustwash px-3 py-2">
              <b className="font-semibold">{plural(summary.pending, "used reference")} will not be complete.</b> The
              crate can still be sealed; it will list what is missing. To make it complete, go to Mend first.
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
          {stow.saying ? (
            <p className="mt-3 text-faint">The documents for the crate are still being prepared.</p>
          ) : null}
          {stow.all.problems + stow.unheard > 0 ? (
            <p className="mt-3 max-w-[64ch] border-l-[3px] border-ochre px-3 py-1">
              {stow.all.problems > 0 ? (
                <TextLink to="../stow">{plural(stow.all.problems, "thing")} to check in Stow</TextLink>
              ) : null}
              {stow.unheard > 0 ? ` ${plural(stow.unheard, "sound")} to be converted will be checked first.` : null}
            </p>
          ) : null}
          <Section title="Contents" aside={`${plural(stow.files, "file")}, ${load(stow)}`}>
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

/** Again says what of an earlier crate at the place stands, before it is sealed again. */
function Again({ to }: { to: Destination }) {
  if (to.stands.files === 0) return null;
  return (
    <span className="mt-1 block text-ink">
      {to.copies.files === 0
        ? "Nothing changed: "
        : `${plural(to.copies.files, "file")}, ${bytes(to.copies.bytes)} will be copied; `}
      {plural(to.stands.files, "file")}, {bytes(to.stands.bytes)} {to.stands.files === 1 ? "is" : "are"} there already.
      Everything is read back{to.seconds > 0 ? `, about ${timeLeft(to.seconds)}` : ""}.
    </span>
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
  ended,
}: {
  id: number;
  stow: Stow;
  summary: Summary;
  busy: boolean;
  again: boolean;
  /** the application ended while it was sealed */
  ended: boolean;
}) {
  const { data: state } = useAppState();
  const was = stow.out;
  const forms: readonly (readonly [string, string])[] = stow.oneFile
    ? [...carriers, [stow.oneFile, `one file (${stow.oneFile})`]]
    : carriers;
  const ending = forms.map(([e]) => e).find((e) => e !== "" && was.endsWith(e)) ?? "";
  const home = summary.project.root.split("/").slice(0, -1).join("/");
  const slash = was.lastIndexOf("/");
  const [dir, setDir] = useState(was ? was.slice(0, slash) : proposed(state?.drives ?? [], home, stow.bytes));
  const [name, setName] = useState(
    was ? was.slice(slash + 1, was.length - ending.length) : `${summary.project.name} crate`,
  );
  const [carrier, setCarrier] = useState<string>(ending);
  const [note, setNote] = useState(stow.note);
  const [asking, setAsking] = useState(false);
  const [since, setSince] = useState("");
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
      <h2 className="text-[22px]">Destination</h2>
      <Section title="Folder" aside="outside the project folder">
        <FolderPicker makes start={dir} onFolder={(p) => setDir(p)} low />
      </Section>
      <Section title="Name and format">
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
            choices={forms.map(([ending, word]) => ({ value: ending || "folder", word }))}
          />
        </div>
        <div className="mt-2 flex flex-wrap items-center gap-2 text-[12px] text-faint">
          <Chip
            on={o.sha512}
            onClick={() => set.mutate({ sha512: !o.sha512 })}
            why="Adds SHA-512 manifests beside SHA-256, where the receiver requires them. Sealing takes longer."
          >
            add SHA-512
          </Chip>
          <Lists id={id} lists={o.lists} />
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
      <Since id={id} since={since} onSince={setSince} />
      <Section title="Note for the recipient">
        <textarea
          aria-label="Note"
          className="h-16 w-full resize-none rounded-xs border border-rule bg-field px-2 py-1 text-ink"
          value={note}
          onChange={(e) => setNote(e.target.value)}
          placeholder="Included in READ ME.txt as written."
        />
        <div className="mt-1 grid grid-cols-2 gap-2 text-[12px] text-faint">
          <Kept
            before="for"
            name="Recipient"
            value={o.for}
            className="min-w-0 flex-1"
            onChange={(v) => set.mutate({ for: v })}
          />
          <Kept
            before="from"
            name="Sender"
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
            {there.again ? "; replaces the earlier crate there once the new one is complete" : ""}
            <Again to={there} />
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
            there?.same ? setAsking(true) : seal.mutate({ snapshot: stow.snapshot, out, note, since, despite: false })
          }
        >
          {busy ? "Sealing" : ended && carrier === "" ? "Go on sealing" : again || ended ? "Seal again" : "Seal crate"}
        </Button>
      </Acts>
      <Confirm
        open={asking}
        onClose={() => setAsking(false)}
        title="An archive on the project’s own drive?"
        act="Seal there anyway"
        onAct={() => {
          setAsking(false);
          seal.mutate({ snapshot: stow.snapshot, out, note, since, despite: true });
        }}
      >
        <p>
          This crate is suitable as an archive, but it would be on the project’s own drive. If that drive fails, both
          are lost. Choose another drive for a backup.
        </p>
      </Confirm>
    </>
  );
}

/**
 * proposed is the drive that a first crate goes to: not the project's own, where a crate is lost with it,
 * but the one with the most room, if it fits; else the project's own.
 */
function proposed(drives: readonly Drive[], home: string, needs: number): string {
  const own = (d: Drive) => home === d.dir || home.startsWith(`${d.dir}/`);
  const others = drives.filter(
    (d) => d.connected && !d.silent && !own(d) && d.free >= needs && d.kind !== "optical" && d.kind !== "synced",
  );
  return (others.sort((a, b) => b.free - a.free)[0] ?? drives.find((d) => d.connected && own(d)))?.dir ?? "";
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
