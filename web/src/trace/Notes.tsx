import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { MoveFolder, Summary } from "../api/types";
import { TextLink } from "../shared/kit";
import { Button, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural, count as figure } from "../shared/words";
import { Home } from "./Home";
import type { Narrow } from "./narrow";

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

/** Notes stand under the verdict: what is to be known of a project besides its state, and done at once. */
export function Notes({ summary, onOnly }: { summary: Summary; onOnly: (narrow: Narrow) => void }) {
  return (
    <>
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
                Show
              </button>
            ) : null}
            {w.code === "shared-folder" ? <TextLink to="../points">Write points</TextLink> : null}
            {w.code === "nothing-recognised" ? (
              <>
                {" "}
                <TextLink to={`/rules?sample=${encodeURIComponent(summary.project.documents[0] ?? "")}`}>
                  Write a rules file
                </TextLink>
                .
              </>
            ) : null}
          </p>
        ))}
      {summary.cameOutside.length > 0 ? (
        <div className="mt-1 flex items-center gap-3 border-l-[3px] border-ochre pl-2 text-[13px]">
          <p {...tip(summary.cameOutside.join("\n"))}>
            {plural(summary.cameOutside.length, "file was", "files were")} added from outside the project. Copy{" "}
            {summary.cameOutside.length === 1 ? "it" : "them"} into the project?
          </p>
          <Home id={summary.project.id} />
          <NotNow id={summary.project.id} />
        </div>
      ) : null}
      {summary.moved.map((m) => (
        <div key={m.from} className="mt-1 flex items-center gap-3 border-l-[3px] border-sea pl-2 text-[13px]">
          <p className="min-w-0 flex-1">
            {plural(m.references, "reference")} {m.references === 1 ? "points" : "point"} to{" "}
            <code className="font-mono text-[12px]">{m.from}</code>; {m.present} of them{" "}
            {m.present === 1 ? "exists" : "exist"} under{" "}
            <code className="font-mono text-[12px]">{summary.project.rootName}</code>.
          </p>
          <Moved id={summary.project.id} from={m.from} to={m.to} count={m.present} />
        </div>
      ))}
      {summary.apart.map((c) => (
        <p key={c.of + c.name} className="mt-1 border-l-[3px] border-ochre pl-2 text-[13px]" {...tip(c.found)}>
          <code className="font-mono text-[12px]">{c.name}</code> belongs to {c.of.split("/").at(-1)}{" "}
          {c.gone ? (
            "and is gone. It was beside it at the last check."
          ) : (
            <>
              and was left behind at <code className="font-mono text-[12px]">{c.found}</code>.
            </>
          )}
        </p>
      ))}
      {summary.rebuild > 0 ? (
        <p className="mt-1 border-l-[3px] border-rule pl-2 text-[13px] text-ink2">
          {plural(summary.rebuild, "missing file is", "missing files are")} can be rebuilt by the program that made{" "}
          {summary.rebuild === 1 ? "it" : "them"}. Rebuild instead of searching.
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
              ? "All of these are guesses"
              : `${plural(summary.guessed, "reference is", "references are")} guessed`}
          </button>
          from text that looks like a path to an existing file. A{" "}
          <TextLink to={`/rules?sample=${encodeURIComponent(summary.project.documents[0] ?? "")}`}>rules file</TextLink>{" "}
          makes it certain.
        </p>
      ) : null}
      {summary.problemList.map((p, i) => (
        <p key={i} className="mt-1 border-l-[3px] border-rust pl-2 text-[13px]">
          <span className="font-mono text-[12px]">
            {p.path.split("/").at(-1)}
            {p.line > 0 ? `, line ${p.line}` : ""}
          </span>
          {": "}
          {p.message}. {p.untouched} {p.do}
        </p>
      ))}
      {summary.problems > summary.problemList.length ? (
        <p className="mt-1 border-l-[3px] border-rust pl-2 text-[13px]">
          <TextLink to="?list=problems">Show all {plural(summary.problems, "problem")}</TextLink>
        </p>
      ) : null}
    </>
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
        Relink {count === 1 ? "it" : `all ${figure(count)}`}
      </Button>
      <Trouble error={move.error} />
    </>
  );
}
