import { useState } from "react";

import * as acts from "../api/acts";
import { tries } from "../api/client";
import { useAct, useSummary } from "../api/queries";
import type { Mend, Repair, WriteRepairs, WriteResult } from "../api/types";
import { LastWritten } from "../frame/LastWritten";
import { LinesSheet } from "../shared/LinesSheet";
import { TextLink } from "../shared/kit";
import { Button, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural, count } from "../shared/words";

// A long list makes room for what is still to be mended.
const few = 8;

/** Repairs are what holds the project together without a document being touched. */
export function Repairs({ id, mend }: { id: number; mend: Mend }) {
  const [asking, setAsking] = useState<WriteResult | null>(null);
  const [said, setSaid] = useState<boolean | null>(null);
  const [result, setResult] = useState<WriteResult | null>(null);
  const undo = useAct((r: Repair) => acts.undoRepair(id, r.id));
  const look = useAct((r: WriteRepairs) => tries(acts.write(id, r)), setAsking);
  const write = useAct(
    (r: WriteRepairs) => acts.write(id, r),
    (r) => {
      setResult(r);
      setAsking(null);
    },
  );
  const { data: summary } = useSummary(id);
  if (mend.repairs.length === 0 && !result && !summary?.lastAct) return null;
  const shows = said ?? mend.allRepairs <= few;
  const shown = mend.repairs.toReversed();
  return (
    <section
      aria-label="Repairs"
      tabIndex={0}
      className="max-h-[42%] shrink-0 overflow-auto border-t border-rule px-[18px] pt-2 pb-2 -outline-offset-2"
    >
      {shown.length > 0 ? (
        <>
          <div className="flex items-center gap-3">
            <h3 className="caps text-[13px]">{plural(mend.allRepairs, "repair")} in place</h3>
            <Button kind="small" aria-expanded={shows} onClick={() => setSaid(!shows)}>
              {shows ? "Hide" : "Show"}
            </Button>
            <span className="flex-1 truncate text-right text-[12px] text-faint">
              Saved in Bound Crate only; documents unchanged
            </span>
            {mend.writable.length > 0 ? (
              <Button
                kind="small"
                disabled={look.isPending}
                onClick={() => look.mutate({ snapshot: mend.snapshot, try: true })}
              >
                Write to {plural(mend.writable.length, "document")}
              </Button>
            ) : null}
          </div>
          <Trouble error={look.error} />
          {mend.others.length > 0 ? (
            <ul aria-label="Other projects that miss these" className="mt-1">
              {mend.others.map((o) => (
                <li key={o.id} className="text-ink2">
                  <TextLink to={`/p/${o.id}/mend`}>{o.name}</TextLink> misses {plural(o.missing, "file")} relinked here.
                  Candidates for {o.missing === 1 ? "it" : "them"} are offered there.
                </li>
              ))}
            </ul>
          ) : null}
          <ul className={shows ? "mt-2 border-t border-hair" : "hidden"}>
            {shown.map((r) => (
              <li
                key={r.id}
                className="grid grid-cols-[minmax(0,1fr)_16px_minmax(0,1fr)_auto] items-center gap-2 border-b border-hair py-1"
              >
                <span className="truncate font-mono text-[12px] text-faint" {...tip(r.from)}>
                  {r.fromLabel}
                  {r.prefix ? "/…" : ""}
                </span>
                <span aria-hidden className="text-faint">
                  →
                </span>
                <span className="min-w-0" {...tip(r.to)}>
                  <span className="block truncate font-mono text-[12px]">
                    {r.toLabel}
                    {r.prefix ? "/…" : ""}
                  </span>
                  <span className="block truncate text-[11.5px] text-faint">
                    {[r.certainty, ...r.reasons].filter(Boolean).join(", ")}
                    {r.live ? "" : " · no longer used"}
                  </span>
                </span>
                <Button kind="small" disabled={undo.isPending} onClick={() => undo.mutate(r)}>
                  Undo
                </Button>
              </li>
            ))}
            {mend.allRepairs > shown.length ? (
              <li className="py-1 text-faint">and {count(mend.allRepairs - shown.length)} earlier ones</li>
            ) : null}
          </ul>
        </>
      ) : null}
      <Trouble error={undo.error} />
      <LastWritten id={id} summary={summary} />
      {result ? <Outcome result={result} /> : null}
      <LinesSheet
        open={asking !== null}
        title={asked(asking)}
        says="Only these lines change. An edition of each document is kept first, so you can restore it."
        lines={asking?.lines ?? []}
        busy={write.isPending}
        onClose={() => setAsking(null)}
        onWrite={() => asking && write.mutate({ snapshot: asking.snapshot, try: false })}
      >
        {asking && asking.more > 0 ? <p className="text-faint">and {plural(asking.more, "line")} more</p> : null}
        <Problems of={asking?.problems ?? []} />
        <Trouble error={write.error} />
      </LinesSheet>
    </section>
  );
}

function Outcome({ result }: { result: WriteResult }) {
  return (
    <div role="status" className="mt-3 border-l-[3px] border-moss bg-mosswash px-3 py-2">
      {result.written.length === 0 ? <p>Nothing was written.</p> : null}
      {result.written.map((w) => (
        <p key={w.document} className="break-words">
          <b className="font-semibold">{w.document.split("/").at(-1)}</b>: {plural(w.mentions, "reference")} written.
          Its earlier state is kept as <span className="font-mono text-[12px]">{w.edition}</span>.
        </p>
      ))}
      <Problems of={result.problems} />
    </div>
  );
}

const asked = (r: WriteResult | null) =>
  r?.lines.length === 0
    ? "Nothing can be written"
    : `Change ${plural((r?.lines.length ?? 0) + (r?.more ?? 0), "line")}?`;

function Problems({ of }: { of: WriteResult["problems"] }) {
  return of.map((p, i) => (
    <p key={i} className="text-rust">
      {p.path.split("/").at(-1)} {p.message}. {p.untouched} {p.do}
    </p>
  ));
}
