import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { Group, MendGroup } from "../api/types";
import { Mark } from "../shared/Mark";
import { Check } from "../shared/kit";
import { Button, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural, count as figure } from "../shared/words";
import { Certainty } from "./Certainty";
import { Replacement } from "./Replacement";

/** Groups: folders that moved and files that were renamed by one habit, each one act. */
export function Groups({ id, groups }: { id: number; groups: readonly Group[] }) {
  if (groups.length === 0) return null;
  return (
    <ul
      aria-label="Found in one folder"
      className="max-h-[38%] shrink-0 overflow-auto border-b border-rule"
      tabIndex={0}
      role="list"
    >
      {groups.map((g) => (
        <Together key={g.key} id={id} group={g} />
      ))}
    </ul>
  );
}

function Together({ id, group: g }: { id: number; group: Group }) {
  const [open, setOpen] = useState(false);
  const [out, setOut] = useState<readonly string[]>([]);
  const { data, error } = useQuery({
    ...acts.group(id, { key: g.key }),
    enabled: open,
  });
  const mend = useAct((m: MendGroup) => acts.mendGroup(id, m));
  const clear = g.files - g.doubts;
  const takenOut = data?.list.filter((r) => !r.doubtful && out.includes(r.expected)).length ?? 0;
  const count = clear - takenOut;
  const chosen = count < g.files ? figure(count) : count === 1 ? "it" : `all ${figure(count)}`;
  return (
    <li className="border-b border-hair px-[18px] py-2 last:border-b-0">
      <div className="flex items-center gap-3">
        <button
          type="button"
          aria-expanded={open}
          aria-label={`Files of ${g.fromLabel}`}
          onClick={() => setOpen(!open)}
          className="flex size-6 shrink-0 items-center justify-center rounded-xs border border-rule text-[11px] hover:border-ink"
        >
          {open ? "▾" : "▸"}
        </button>
        <p className="min-w-0 flex-1 leading-snug">
          <b className="font-semibold">{plural(g.files, "file")}</b> of{" "}
          <code className="font-mono text-[12px] break-words" {...tip(g.from)}>
            {g.fromLabel}
          </code>{" "}
          {g.files === 1 ? "is" : "are"} {g.from === g.to ? "there" : "now in"}{" "}
          {g.from === g.to ? null : (
            <code className="font-mono text-[12px] break-words" {...tip(g.to)}>
              {g.toLabel}
            </code>
          )}
          {g.renamed ? <span>, {g.renamed}</span> : null}
          <span className="block text-[12px] text-faint">
            {g.reasons.join(" · ")}
            {g.doubts > 0 ? (
              <span className="text-rust">
                {" "}
                · {figure(g.doubts)} {g.doubts === 1 ? "needs" : "need"} checking
              </span>
            ) : null}
          </span>
        </p>
        <Certainty of={g.certainty} />
        <Button
          kind={g.certainty === "possible" || count === 0 ? "small" : "smallFirst"}
          disabled={mend.isPending || (count === 0 && g.doubts === 0)}
          onClick={() => (count === 0 ? setOpen(true) : mend.mutate({ key: g.key, without: [...out], despite: false }))}
        >
          {count === 0 && g.doubts > 0 ? `Check ${figure(g.doubts)}` : `Relink ${chosen}`}
        </Button>
      </div>
      <Trouble error={mend.error ?? error} />
      {open && data ? (
        <ul className="mt-2 mb-1 ml-9 border-l border-rule" aria-label={`In ${g.toLabel}`}>
          {data.list.slice(0, mostShown).map((r) => (
            <li
              key={r.expected}
              className="grid grid-cols-[26px_minmax(0,1fr)_14px_minmax(0,1fr)] items-center gap-1.5 py-px pl-2"
            >
              {r.doubtful ? (
                <Mark state="missing" />
              ) : (
                <Check
                  aria-label={r.name}
                  checked={!out.includes(r.expected)}
                  onChange={() =>
                    setOut(out.includes(r.expected) ? out.filter((e) => e !== r.expected) : [...out, r.expected])
                  }
                />
              )}
              <Replacement row={r} />
            </li>
          ))}
          {data.list.length > mostShown ? (
            <li className="py-1 pl-2 text-faint">and {plural(data.list.length - mostShown, "file")} more</li>
          ) : null}
        </ul>
      ) : null}
    </li>
  );
}

const mostShown = 400;
