import type { ReactNode } from "react";
import { Fragment } from "react";
import { Link } from "react-router";

import type { Summary } from "../api/types";
import { plural } from "../shared/words";

/** Verdict says the state of the project in a sentence or two, worst first. */
export function Verdict({ summary, onState }: { summary: Summary; onState: (state: string) => void }) {
  const of = (state: string) => summary.states.find((s) => s.key === state)?.files ?? 0;
  const kinds = summary.missing.map((m) => `${m.key} ${m.files}`).join(", ");
  const parts: ReactNode[] = [];
  const add = (n: number, state: string, tone: string, words: string, rest: ReactNode) => {
    if (n > 0)
      parts.push(
        <>
          <button type="button" onClick={() => onState(state)} title="Show only these" className={`font-semibold underline-offset-2 hover:underline ${tone}`}>
            {words}
          </button>
          {rest}
        </>,
      );
  };
  const missing = of("missing");
  add(missing, "missing", "text-rust", `${missing} missing`, kinds ? ` (${kinds})` : "");
  add(of("twins"), "twins", "text-rust", plural(of("twins"), "name"), " could mean more than one file");
  add(of("unreadable"), "unreadable", "text-rust", `${of("unreadable")} cannot be read`, "");
  add(summary.gaps, "gaps", "text-rust", `${summary.gaps} ${summary.gaps === 1 ? "frame is" : "frames are"} gone`, " from image sequences");
  const out = [...new Set(summary.places.filter((p) => p.kind === "unplugged").map((p) => p.drive))];
  add(of("unplugged"), "unplugged", "text-ochre", `${of("unplugged")} on ${out.join(", ")}`, out.length === 1 ? ", which is not connected" : ", which are not connected");
  add(of("unsaved"), "unsaved", "text-ochre", `${of("unsaved")} never saved`, "");
  const foreign = summary.places.filter((p) => p.kind === "project").reduce((n, p) => n + p.files, 0);
  const dumped = summary.places.filter((p) => p.kind === "dump").reduce((n, p) => n + p.files, 0);
  const notes = [foreign > 0 && `${foreign} in other projects' folders`, dumped > 0 && `${dumped} in a dumping ground`].filter(Boolean).join(", ");
  add(of("away"), "away", "text-sea", plural(of("away"), "file lives", "files live") + " outside this project", notes ? ` (${notes})` : "");
  return (
    <div className="px-[18px] pt-3 pb-2 text-[15px] leading-snug">
      {parts.length === 0 ? (
        <p>
          <b className="font-semibold text-moss">Everything is here.</b> {summary.files === 1 ? "Its one file lies" : `All ${summary.files} files lie`} in the project folder.
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
      {summary.guessed > 0 ? (
        <p className="mt-1 border-l-[3px] border-sea pl-2 text-[13px]">
          {summary.guessed === summary.references ? "All of this is guessed" : `${plural(summary.guessed, "reference is", "references are")} guessed`}, by what looks like a path and leads somewhere. A{" "}
          <Link to="/rules" className="text-sea underline">
            rules file
          </Link>{" "}
          tells for sure where such a document names its files.
        </p>
      ) : null}
      {summary.problems.map((p, i) => (
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
