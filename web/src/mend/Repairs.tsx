import { useState } from "react";

import { api } from "../api/client";
import { useAct, useSummary } from "../api/queries";
import type { Mend, Repair, WriteResult } from "../api/types";
import { LastWritten } from "../frame/LastWritten";
import { Confirm } from "../shared/Confirm";
import { Button, Section, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural } from "../shared/words";

const most = 200;

/** Repairs are what holds the project together without a document being touched. */
export function Repairs({ id, mend }: { id: number; mend: Mend }) {
  const [asking, setAsking] = useState(false);
  const [result, setResult] = useState<WriteResult | null>(null);
  const undo = useAct((r: Repair) => api.drop(`/projects/${id}/repairs/${r.id}`));
  const write = useAct(
    () => api.post<WriteResult>(`/projects/${id}/write`),
    (r) => {
      setResult(r);
      setAsking(false);
    },
  );
  const { data: summary } = useSummary(id);
  if (mend.repairs.length === 0 && !result && !summary?.lastAct) return null;
  const shown = mend.repairs.toReversed().slice(0, most);
  return (
    <section
      aria-label="Repairs"
      tabIndex={0}
      className="max-h-[42%] shrink-0 overflow-auto border-t border-rule px-[18px] pt-3 pb-4 -outline-offset-2"
    >
      {shown.length > 0 ? (
        <Section
          title={plural(mend.repairs.length, "repair") + " in place"}
          aside="kept here; the documents are as they were"
        >
          {mend.writable.length > 0 ? (
            <div className="mb-2 flex items-center gap-3">
              <Button onClick={() => setAsking(true)}>
                Write them into {plural(mend.writable.length, "document")}
              </Button>
              <span className="text-[12px] text-faint">
                Not needed for a crate: it names the files where they will be.
              </span>
            </div>
          ) : null}
          <ul>
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
                    {r.live ? "" : " · nothing leans on it any more"}
                  </span>
                </span>
                <Button kind="small" disabled={undo.isPending} onClick={() => undo.mutate(r)}>
                  Undo
                </Button>
              </li>
            ))}
            {mend.repairs.length > most ? (
              <li className="py-1 text-faint">
                and {(mend.repairs.length - most).toLocaleString("en-GB")} earlier ones
              </li>
            ) : null}
          </ul>
        </Section>
      ) : null}
      <Trouble error={undo.error} />
      <LastWritten id={id} summary={summary} />
      {result ? <Outcome result={result} /> : null}
      <Confirm
        open={asking}
        onClose={() => setAsking(false)}
        title="Write the repairs into the documents?"
        act="Write them"
        busy={write.isPending}
        onAct={() => write.mutate(undefined)}
      >
        <p className="mb-2">An edition of each is kept first. These change on disk:</p>
        <ul className="mb-2">
          {mend.writable.map((d) => (
            <li key={d} className="font-mono text-[12px] break-words">
              {d}
            </li>
          ))}
        </ul>
        <Trouble error={write.error} />
      </Confirm>
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
      {result.problems.map((p, i) => (
        <p key={i} className="text-rust">
          {p.path.split("/").at(-1)} {p.message}. {p.untouched} {p.do}
        </p>
      ))}
    </div>
  );
}
