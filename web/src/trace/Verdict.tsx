import type { ReactNode } from "react";
import { Fragment } from "react";
import { Link } from "react-router";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { MoveFolder, Summary } from "../api/types";
import { Button, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural, count as figure } from "../shared/words";
import { Home } from "./Slip";
import type { nowhere } from "./Trace";

// The sentence above says by itself what lies in dumping grounds, and what is guessed.
const told = new Set<Summary["warnings"][number]["code"]>([
  "scattered",
  "nothing-recognised",
  "unreadable-folder",
  "shared-folder",
  "slow-drive",
  "synced-folder",
  "sibling-newer",
]);

type Narrow = Partial<typeof nowhere>;

/** Verdict says the state of the project in a sentence or two, worst first. */
export function Verdict({
  summary,
  onOnly,
  aside,
}: {
  summary: Summary;
  onOnly: (narrow: Narrow) => void;
  aside: ReactNode;
}) {
  const of = (state: string) => summary.states.find((s) => s.state === state)?.files ?? 0;
  const kinds = summary.lost.map((m) => m.word).join(", ");
  const parts: ReactNode[] = [];
  const add = (n: number, narrow: Narrow, tone: string, words: string, rest: ReactNode) => {
    if (n > 0)
      parts.push(
        <>
          <button
            type="button"
            onClick={() => onOnly(narrow)}
            className={`font-semibold underline-offset-2 hover:underline ${tone}`}
            {...tip("Show only these")}
          >
            {words}
          </button>
          {rest}
        </>,
      );
  };
  const state = (s: string, tone: string, words: string, rest: ReactNode) =>
    add(of(s), { state: s }, tone, words, rest);
  // Named before what is missing: what is lost there is not yet made.
  const flagged = summary.writePoints.length;
  if (flagged > 0)
    parts.push(
      <>
        <Link to="../points" className="font-semibold text-ochre underline-offset-2 hover:underline">
          {plural(flagged, "write point")}
        </Link>{" "}
        {flagged === 1 ? "leads" : "lead"} out of the project
      </>,
    );
  if (summary.inside > 0 || of("unsaved") > 0)
    parts.push(
      <>
        <Link to="../inside" className="font-semibold text-ochre underline-offset-2 hover:underline">
          {[
            of("unsaved") > 0 && `${of("unsaved")} never saved`,
            summary.inside > 0 &&
              `${plural(summary.inside, "thing")} kept only inside ${summary.documents === 1 ? "the document" : "documents"}`,
          ]
            .filter(Boolean)
            .join(", ")}
        </Link>
      </>,
    );
  const missing = summary.missing + summary.unused;
  add(missing, { state: "missing" }, "text-rust", `${missing} missing`, kinds ? ` (${kinds})` : "");
  state("twins", "text-rust", plural(of("twins"), "name"), " could mean more than one file");
  state("unreadable", "text-rust", `${of("unreadable")} cannot be read`, "");
  add(
    summary.suspect,
    { badge: "suspect" },
    "text-rust",
    plural(summary.suspect, "file"),
    ` ${summary.suspect === 1 ? "is" : "are"} there, but may be damaged or the wrong one`,
  );
  if (summary.lacking > 0)
    parts.push(
      <span className="font-semibold text-rust">{plural(summary.lacking, "part")} missing from packages</span>,
    );
  const frames = plural(summary.gaps, "frame is", "frames are");
  add(summary.gaps, { badge: "gaps" }, "text-rust", `${frames} gone`, " from image sequences");
  const out = [...new Set(summary.places.filter((p) => p.kind === "unplugged").map((p) => p.drive))];
  const away = out.length === 1 ? ", which is not connected" : ", which are not connected";
  state("unplugged", "text-ochre", `${of("unplugged")} on ${out.join(", ")}`, away);
  const foreign = summary.places.filter((p) => p.kind === "project").reduce((n, p) => n + p.files, 0);
  const dumped = summary.places.filter((p) => p.kind === "dump").reduce((n, p) => n + p.files, 0);
  const notes = [foreign > 0 && `${foreign} in other projects' folders`, dumped > 0 && `${dumped} in a dumping ground`];
  const note = notes.filter(Boolean).join(", ");
  const lives = plural(of("away"), "file lives", "files live");
  state("away", "text-sea", `${lives} outside this project`, note ? ` (${note})` : "");
  if (summary.unread > 0) parts.push(`${plural(summary.unread, "folder")} could not be read`);
  if (summary.problems > 0)
    parts.push(<span className="font-semibold text-rust">{plural(summary.problems, "problem")}</span>);
  return (
    <div className="px-[18px] pt-3 pb-2 text-[15px] leading-snug">
      <div className="float-right ml-4">{aside}</div>
      {summary.allHere && parts.length === 0 ? (
        <p>
          <b className="font-semibold text-moss">Everything is here.</b>{" "}
          {summary.files === 1 ? "Its one file lies" : `All ${plural(summary.files, "file")} lie`} in the project
          folder.
        </p>
      ) : (
        <p>
          {parts.map((p, i) => (
            <Fragment key={i}>
              {p}
              {i < parts.length - 1 ? "; " : "."}
            </Fragment>
          ))}
        </p>
      )}
      {summary.warnings
        .filter((w) => told.has(w.code))
        .map((w) => (
          <p key={w.code} className="mt-1 border-l-[3px] border-ochre pl-2 text-[13px]" {...tip(w.paths.join("\n"))}>
            {w.message}{" "}
            {w.place ? (
              <button
                type="button"
                className="text-sea underline underline-offset-2"
                onClick={() => onOnly({ place: w.place })}
              >
                Show them
              </button>
            ) : null}
            {w.code === "shared-folder" ? (
              <Link to="../points" className="text-sea underline underline-offset-2">
                Where it writes
              </Link>
            ) : null}
            {w.code === "nothing-recognised" ? (
              <>
                {" "}
                <Link
                  to={`/rules?sample=${encodeURIComponent(summary.project.documents[0] ?? "")}`}
                  className="text-sea underline"
                >
                  Teach it with a rules file
                </Link>
                .
              </>
            ) : null}
          </p>
        ))}
      {summary.cameOutside.length > 0 ? (
        <div className="mt-1 flex items-center gap-3 border-l-[3px] border-ochre pl-2 text-[13px]">
          <p {...tip(summary.cameOutside.join("\n"))}>
            {plural(summary.cameOutside.length, "file came", "files came")} from outside: bring{" "}
            {summary.cameOutside.length === 1 ? "it" : "them"} home?
          </p>
          <Home id={summary.project.id} />
          <NotNow id={summary.project.id} />
        </div>
      ) : null}
      {summary.moved.map((m) => (
        <div key={m.from} className="mt-1 flex items-center gap-3 border-l-[3px] border-sea pl-2 text-[13px]">
          <p className="min-w-0 flex-1">
            {plural(m.references, "reference")} {m.references === 1 ? "goes" : "go"} to{" "}
            <code className="font-mono text-[12px]">{m.from}</code>; under{" "}
            <code className="font-mono text-[12px]">{summary.project.rootName}</code> {m.present} of them{" "}
            {m.present === 1 ? "is" : "are"} there.
          </p>
          <Moved id={summary.project.id} from={m.from} to={m.to} count={m.present} />
        </div>
      ))}
      {summary.apart.map((c) => (
        <p key={c.of + c.name} className="mt-1 border-l-[3px] border-ochre pl-2 text-[13px]" {...tip(c.found)}>
          <code className="font-mono text-[12px]">{c.name}</code> belongs to {c.of.split("/").at(-1)}{" "}
          {c.gone ? (
            "and is gone: it stood beside it when it was last looked at."
          ) : (
            <>
              and stayed behind at <code className="font-mono text-[12px]">{c.found}</code>.
            </>
          )}
        </p>
      ))}
      {summary.rebuild > 0 ? (
        <p className="mt-1 border-l-[3px] border-rule pl-2 text-[13px] text-ink2">
          {plural(summary.rebuild, "missing file is", "missing files are")} made again by the program that made{" "}
          {summary.rebuild === 1 ? "it" : "them"}: rebuild, do not search.
        </p>
      ) : null}
      {summary.guessed > 0 ? (
        <p className="mt-1 border-l-[3px] border-sea pl-2 text-[13px]">
          <button
            type="button"
            className="underline-offset-2 hover:underline"
            onClick={() => onOnly({ badge: "guess" })}
          >
            {summary.guessed === summary.references
              ? "All of this is guessed"
              : `${plural(summary.guessed, "reference is", "references are")} guessed`}
          </button>
          , by what looks like a path and leads somewhere. A{" "}
          <Link
            to={`/rules?sample=${encodeURIComponent(summary.project.documents[0] ?? "")}`}
            className="text-sea underline"
          >
            rules file
          </Link>{" "}
          tells for sure where such a document names its files.
        </p>
      ) : null}
      {summary.problemList.map((p, i) => (
        <p key={i} className="mt-1 border-l-[3px] border-rust pl-2 text-[13px]">
          <span className="font-mono text-[12px]">
            {p.path.split("/").at(-1)}
            {p.line > 0 ? `, line ${p.line}` : ""}
          </span>
          {": "}
          {p.message}. {p.untouched ? `Note: ${p.untouched}. ` : ""}
          {p.do ? `To mend it, ${p.do}.` : ""}
        </p>
      ))}
    </div>
  );
}

/** NotNow leaves files that came from outside where they are, until others come. */
function NotNow({ id }: { id: number }) {
  const set = useAct(() => acts.askHome(id, { ask: true }));
  return (
    <Button kind="small" disabled={set.isPending} onClick={() => set.mutate(undefined)}>
      Not now
    </Button>
  );
}

/** Moved makes everything expected below one folder be looked for below another. */
function Moved({ id, from, to, count }: { id: number; from: string; to: string; count: number }) {
  const move = useAct((m: MoveFolder) => acts.move(id, m));
  return (
    <>
      <Button kind="smallFirst" disabled={move.isPending} onClick={() => move.mutate({ from, to })}>
        Mend {count === 1 ? "it" : `all ${figure(count)}`}
      </Button>
      <Trouble error={move.error} />
    </>
  );
}
