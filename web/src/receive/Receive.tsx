import { useQuery } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { useNavigate, useSearchParams } from "react-router";

import * as acts from "../api/acts";
import { useAct, useAppState } from "../api/queries";
import type { NewProject, ReceiveRequest as Request, Received } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { CameOf } from "../frame/Under";
import { Proof } from "../seal/Proof";
import { FolderPicker } from "../shared/FolderPicker";
import { SheetLink, TextLink } from "../shared/kit";
import { Button, Empty, Section, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { archive, bytes, plural } from "../shared/words";

/** Receive: check somebody's crate whole, then unpack it. */
export function Receive() {
  const { data: state } = useAppState();
  const [search] = useSearchParams();
  const [crate, setCrate] = useState(search.get("crate") ?? "");
  const [into, setInto] = useState("");
  const [material, setMaterial] = useState("");
  const [bases, setBases] = useState<readonly string[]>([]);
  const [docs, setDocs] = useState<readonly string[]>(search.getAll("for"));
  const [jobID, setJob] = useState("");
  const start = useAct(
    (r: Request) => acts.receive(r),
    (out) => setJob(out.job.id),
  );
  const job = state?.jobs.find((j) => j.id === jobID);
  const { data: result } = useQuery({
    ...acts.received(jobID),
    enabled: job?.state === "done",
  });
  const busy = job?.state === "running";
  const sheet = (
    <CameOf
      job={job}
      says="Every byte is checked before anything is unpacked. You can leave this page; the work continues."
      stopped="Stopped. Nothing was unpacked."
      before={
        state?.drives.length === 0 ? (
          <Empty title="No drives yet">
            <p>A crate is read from a drive, and unpacked to one. A drive is any folder you work in.</p>
            <p>
              <TextLink to="/">Add the folder that holds the crate as a drive</TextLink>, then come back here.
            </p>
          </Empty>
        ) : (
          <Empty title="Which crate?">
            <p>
              Choose a crate on the right: a folder or an archive. Every byte is checked before anything is unpacked.
            </p>
            <p>
              <TextLink to="/compare">Compare two crates or documents</TextLink> to see what came, went and changed.
            </p>
          </Empty>
        )
      }
      answer={result ? <Outcome got={result} job={jobID} /> : null}
    />
  );
  return (
    <Station
      name="Receive"
      slipName="Receive a crate"
      sheet={sheet}
      slip={
        <>
          <h2 className="text-[22px]">Receive a crate</h2>
          <Section title="The crate" aside="folder or archive">
            <FolderPicker
              chosen={[crate]}
              onFolder={setCrate}
              onFile={(e) => setCrate(e.path)}
              files={(e) => archive.test(e.name)}
              low
            />
          </Section>
          <Section title="Unpack into" aside="a new folder is created there">
            <FolderPicker makes onFolder={setInto} low />
          </Section>
          <More
            title="Sounds and pictures in another folder"
            says="They go there; the documents name them there. Without a folder the crate stays as it is."
            chosen={material ? [material] : []}
            onClear={() => setMaterial("")}
          >
            <FolderPicker makes onFolder={setMaterial} low />
          </More>
          <More
            title="The crate it builds on"
            says="For a difference crate: the earlier crate, or any folder that holds its files."
            chosen={bases}
            onClear={() => setBases([])}
          >
            <FolderPicker
              low
              chosen={bases}
              onFolder={(p) => setBases([p])}
              onFile={(e) => setBases([e.path])}
              files={(e) => archive.test(e.name)}
            />
          </More>
          <More
            title="Documents that arrived apart"
            says="Documents that came by another way. They are connected to the files of the crate; an edition of each is kept first. The crate may then be any archive or folder."
            chosen={docs}
            onClear={() => setDocs([])}
          >
            <FolderPicker
              low
              chosen={docs}
              onFile={(e) => setDocs(docs.includes(e.path) ? docs.filter((d) => d !== e.path) : [...docs, e.path])}
              files={(e) => !archive.test(e.name)}
            />
          </More>
          <Trouble error={start.error} />
          <Acts>
            <p className="truncate font-mono text-[12px] text-faint" {...tip(crate)}>
              {crate ? crate.split("/").at(-1) : "no crate chosen"}
              {into ? ` → ${into.split("/").at(-1)}/` : ""}
            </p>
            <Button
              kind="first"
              disabled={!crate || busy || start.isPending}
              onClick={() => start.mutate({ crate, into: "", bases: [...bases], material: "", for: [] })}
            >
              Check{" "}
            </Button>
            <Button
              disabled={!crate || !into || busy || start.isPending}
              onClick={() => start.mutate({ crate, into, bases: [...bases], material, for: [...docs] })}
            >
              Check and unpack
            </Button>
          </Acts>
        </>
      }
    />
  );
}

/** More is a choice that few need: folded, with what was chosen in sight. */
function More({
  title,
  says,
  chosen,
  onClear,
  children,
}: {
  title: string;
  says: string;
  chosen: readonly string[];
  onClear: () => void;
  children: ReactNode;
}) {
  return (
    <details className="mt-3 shrink-0 border-t border-rule pt-2" open={chosen.length > 0}>
      <summary className="cursor-pointer">
        {title}
        {chosen.length > 0 ? (
          <span className="text-sea"> · {chosen.map((c) => c.split("/").at(-1)).join(", ")}</span>
        ) : null}
      </summary>
      <p className="mt-1 mb-2 text-[12px] text-faint">{says}</p>
      {children}
      {chosen.length > 0 ? (
        <p className="mt-1">
          <Button kind="small" onClick={onClear}>
            Clear
          </Button>
        </p>
      ) : null}
    </details>
  );
}

/** OpenIt opens what was received as a project. */
function OpenIt({ documents }: { documents: string[] }) {
  const go = useNavigate();
  const open = useAct(
    (p: NewProject) => acts.addProject(p),
    (p) => void go(`/p/${p.id}/trace`),
  );
  return (
    <>
      <Button
        kind="smallFirst"
        disabled={open.isPending}
        onClick={() => open.mutate({ documents, root: "", name: "" })}
      >
        Open as project
      </Button>
      <Trouble error={open.error} />
    </>
  );
}

function Fits({ got }: { got: Received["report"] }) {
  if (got.doesNotFit.length === 0) return null;
  return (
    <Section title="Does not fit here" aside={String(got.doesNotFit.length)}>
      <ul>
        {got.doesNotFit.map((m) => (
          <li key={m.path + m.why} className="border-b border-hair py-1 text-rust">
            <span className="font-mono text-[12px]">{m.path.split("/").at(-1)}</span> {m.message}
          </li>
        ))}
      </ul>
    </Section>
  );
}

function Connected({ got }: { got: Received["report"] }) {
  const left = got.left.filter((l) => l.written);
  if (got.connected.length + left.length === 0) return null;
  return (
    <Section title="Documents that arrived apart">
      <ul>
        {got.connected.map((c) => (
          <li key={c.document} className="border-b border-hair py-1">
            <span className="font-mono text-[12px]">{c.document.split("/").at(-1)}</span>{" "}
            <span className="text-moss">{plural(c.references, "reference")} connected</span>
            <span className="block truncate text-[12px] text-faint" {...tip(c.edition)}>
              earlier state kept as {c.edition.split("/").at(-1)}
            </span>
          </li>
        ))}
        {left.map((l, i) => (
          <li key={i} className="border-b border-hair py-1">
            <span className="font-mono text-[12px]">{l.written}</span> <span className="text-ochre">{l.message}</span>
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** member is a path within the crate, as its list has it. */
const member = (path: string, crate: string) =>
  path.startsWith(crate) ? path.slice(crate.length).replace(/^[!/]+/, "") || path : path;

function Outcome({ got, job }: { got: Received; job: string }) {
  const open = !got.well;
  const lacks = got.toFetch;
  const omitted = got.omitted > 0 && got.omitted === got.report.problems.length;
  return (
    <div className="min-h-0 overflow-auto px-[18px] py-4" tabIndex={0} role="group" aria-label="Result">
      <h2 className={`text-[24px] ${got.harm > 0 ? "text-rust" : open ? "text-ochre" : "text-moss"}`}>
        {got.into && got.proof.length === 0
          ? "Unpacked; nobody sealed it, so nothing could be checked"
          : got.into
            ? "Checked and unpacked"
            : got.report.doesNotFit.length > 0
              ? "It does not fit. Nothing was unpacked"
              : lacks > 0
                ? `${plural(lacks, "file")} of it ${lacks === 1 ? "is" : "are"} in the crate it builds on`
                : got.harm > 0
                  ? "Damaged: differs from what was sealed"
                  : omitted
                    ? `Undamaged · ${plural(got.omitted, "file")} left out on purpose`
                    : open
                      ? "Undamaged, but incomplete"
                      : "Undamaged and complete"}
      </h2>
      <p className="mb-3 font-mono text-[12px] break-words text-ink2">
        {got.label}
        {got.into ? ` → ${got.into}` : ""} · {bytes(got.report.bytes)}
      </p>
      <Fits got={got.report} />
      {lacks > 0 && !got.into ? (
        <p className="mb-3 max-w-[72ch] border-l-[3px] border-ochre bg-ochrewash px-3 py-2">
          This is a difference crate, undamaged. Choose the crate it builds on, on the right, and unpack both together.
        </p>
      ) : null}
      {got.into ? (
        <div className="mb-3 flex flex-wrap items-center gap-4">
          {got.report.documents.length > 0 ? <OpenIt documents={got.report.documents} /> : null}
          {got.sheet ? <SheetLink href={`/api/receive/${job}/sheet`} /> : null}
          {got.apart ? (
            <span className="text-[12px] text-ink2">
              Sounds and pictures are in <span className="font-mono">{got.apart}</span>
            </span>
          ) : null}
        </div>
      ) : got.sheet ? (
        <p className="mb-3">
          <SheetLink href={`/api/receive/${job}/sheet`} />
        </p>
      ) : null}
      {got.here.length > 0 ? (
        <p className="mb-3 max-w-[78ch] border-l-[3px] border-sea pl-3">
          {got.here.length === 1 ? "A project here has" : "Projects here have"} a document of the same name:{" "}
          {got.here.map((h, i) => (
            <span key={h.project}>
              {i > 0 ? "; " : ""}
              <b className="font-semibold">{h.name}</b>.{" "}
              <TextLink to={`/p/${h.project}/keep?${new URLSearchParams({ inside: got.crate }).toString()}`}>
                Choose what to take into it
              </TextLink>{" "}
              or{" "}
              <TextLink
                to={`/compare?${new URLSearchParams({ a: h.document, b: got.report.documents[0] ?? got.crate }).toString()}`}
              >
                compare
              </TextLink>
            </span>
          ))}
          .
        </p>
      ) : null}
      <Connected got={got.report} />
      {got.note || got.for || got.from ? (
        <div className="mb-3 max-w-[78ch] border-l-[3px] border-sea pl-3">
          {got.from || got.for ? (
            <p className="text-[12.5px] text-ink2">
              {[got.from && `From ${got.from}`, got.for && `for ${got.for}`].filter(Boolean).join(", ")}
            </p>
          ) : null}
          {got.note ? <p className="break-words whitespace-pre-line">{got.note}</p> : null}
        </div>
      ) : null}
      <Proof lines={got.proof} />
      {open ? (
        <Section
          title={got.harm > 0 ? "Problems" : omitted ? "Left out on purpose" : "Not complete"}
          aside={String(got.report.problems.length)}
        >
          <ul>
            {got.report.problems.map((p, i) => (
              <li key={i} className="border-b border-hair py-1">
                <span className="block truncate font-mono text-[12px] text-faint" {...tip(p.path)}>
                  {member(p.path, got.report.crate)}
                </span>
                {p.message}
              </li>
            ))}
          </ul>
        </Section>
      ) : null}
      {got.report.left.length > 0 ? (
        <Section title="Left out by the sender" aside={String(got.report.left.length)}>
          <ul>
            {got.report.left
              .filter((l) => !l.written)
              .map((l) => (
                <li key={l.path + l.why} className="flex justify-between gap-4 border-b border-hair py-1">
                  <span className="truncate font-mono text-[12px]" {...tip(l.path)}>
                    {l.path.split("/").at(-1)}
                  </span>
                  <span className="text-[12px] text-faint">{l.why}</span>
                </li>
              ))}
          </ul>
        </Section>
      ) : null}
    </div>
  );
}
