import type { ReactNode } from "react";
import { Fragment } from "react";
import { Link } from "react-router";

import type { Summary } from "../api/types";
import { tip } from "../shared/Tip";
import { plural } from "../shared/words";
import { Notes } from "./Notes";
import type { Narrow } from "./narrow";

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
            of("unsaved") > 0 && `${plural(of("unsaved"), "file")} never saved`,
            summary.inside > 0 &&
              `${plural(summary.inside, "item")} stored only inside ${summary.documents === 1 ? "the document" : "documents"}`,
          ]
            .filter(Boolean)
            .join(", ")}
        </Link>
      </>,
    );
  const missing = summary.missing + summary.unused;
  add(missing, { state: "missing" }, "text-rust", `${plural(missing, "file")} missing`, kinds ? ` (${kinds})` : "");
  state(
    "twins",
    "text-rust",
    plural(of("twins"), "name"),
    of("twins") === 1 ? " matches more than one file" : " match more than one file",
  );
  state("unreadable", "text-rust", `${plural(of("unreadable"), "file")} cannot be read`, "");
  add(
    summary.suspect,
    { badge: "suspect" },
    "text-rust",
    plural(summary.suspect, "file"),
    ` ${summary.suspect === 1 ? "is" : "are"} found, but may be damaged or the wrong one`,
  );
  if (summary.lacking > 0)
    parts.push(
      <span className="font-semibold text-rust">{plural(summary.lacking, "part")} missing from packages</span>,
    );
  const frames = plural(summary.gaps, "frame");
  add(summary.gaps, { badge: "gaps" }, "text-rust", `${frames} missing`, " from image sequences");
  const out = [...new Set(summary.places.filter((p) => p.kind === "unplugged").map((p) => p.drive))];
  const away = out.length === 1 ? ", which is not connected" : ", which are not connected";
  state("unplugged", "text-ochre", `${plural(of("unplugged"), "file")} on ${out.join(", ")}`, away);
  const foreign = summary.places.filter((p) => p.kind === "project").reduce((n, p) => n + p.files, 0);
  const dumped = summary.places.filter((p) => p.kind === "dump").reduce((n, p) => n + p.files, 0);
  const notes = [
    foreign > 0 && `${foreign} in other projects' folders`,
    dumped > 0 && `${dumped} in Downloads or a temporary folder`,
  ];
  const note = notes.filter(Boolean).join(", ");
  const lives = plural(of("away"), "file is", "files are");
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
          {summary.files === 1 ? "Its only file is" : `All ${plural(summary.files, "file")} are`} in the project folder.
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
      <Notes summary={summary} onOnly={onOnly} />
    </div>
  );
}
