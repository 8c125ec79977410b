import { useState } from "react";

import { api } from "../api/client";
import { useAct } from "../api/queries";
import type { Job, Started, State, Summary } from "../api/types";
import { Button } from "../shared/parts";
import { bytes, clock, plural, timeLeft } from "../shared/words";

const amount = (j: Job, n: number) => (j.unit === "bytes" ? bytes(n) : n.toLocaleString("en-GB"));

function pace(j: Job): string {
  const parts = [];
  if (j.total > 0) parts.push(`${amount(j, j.done)} of ${amount(j, j.total)}`);
  else if (j.done > 0) parts.push(j.unit === "bytes" ? bytes(j.done) : plural(j.done, j.unit.replace(/s$/, "")));
  if (j.rate > 0) parts.push(`${j.unit === "bytes" ? bytes(Math.round(j.rate)) : Math.round(j.rate).toLocaleString("en-GB")} a second`);
  if (j.left > 0) parts.push(timeLeft(j.left));
  return parts.join(" · ");
}

/** Bar shows how far work has come; without a total it only shows that it goes on. */
export function Bar({ done, total, label }: { done: number; total: number; label: string }) {
  const share = total > 0 ? Math.min(1, done / total) : 0;
  return (
    <svg viewBox="0 0 180 8" preserveAspectRatio="none" width="180" height="8" className="shrink-0 text-sea" role="progressbar" aria-label={label} aria-valuenow={total > 0 ? Math.round(share * 100) : undefined} aria-valuemin={0} aria-valuemax={100}>
      {total > 0 ? <rect width={180 * share} height="8" fill="currentColor" /> : <rect className="going" width="40" height="8" fill="currentColor" />}
      <rect x=".5" y=".5" width="179" height="7" fill="none" className="stroke-ink2" />
    </svg>
  );
}

/** Foot shows running work and opens to what ran lately. */
export function Foot({ state, summary }: { state: State | undefined; summary: Summary | undefined }) {
  const [open, setOpen] = useState(false);
  const stop = useAct((id: string) => api.post<Started>(`/jobs/${id}/stop`));
  const jobs = state?.jobs ?? [];
  const now = jobs.find((j) => j.state === "running");
  const last = jobs[0];
  return (
    <footer className="border-t border-rule bg-sheet text-[12px] text-ink2">
      {open ? (
        <ul aria-label="Work done lately" className="max-h-56 overflow-auto border-b border-rule">
          {jobs.length === 0 ? <li className="px-4 py-2 text-faint">Nothing has run yet.</li> : null}
          {jobs.map((j) => (
            <li key={j.id} className="grid grid-cols-[70px_minmax(160px,1fr)_80px_2fr] gap-3 border-b border-hair px-4 py-1">
              <span className="font-mono text-faint">{clock(j.began)}</span>
              <span className="truncate">{j.title}</span>
              <span className={j.state === "failed" ? "text-rust" : j.state === "done" ? "text-moss" : ""}>{j.state}</span>
              <span className="truncate" title={j.error || j.message}>
                {j.error || j.message || j.step}
              </span>
            </li>
          ))}
        </ul>
      ) : null}
      <div className="flex h-8 items-center gap-3 px-4">
        <div role="status" aria-live="polite" className="flex min-w-0 items-center gap-3">
          {now ? (
            <>
              <span className="truncate">
                {now.title}
                {now.step ? ` · ${now.step}` : ""}
              </span>
              <Bar done={now.done} total={now.total} label={now.title} />
              <span className="font-mono whitespace-nowrap">{pace(now)}</span>
            </>
          ) : last ? (
            <span className="truncate">
              {last.title}: <b className={`font-medium ${last.state === "failed" ? "text-rust" : ""}`}>{last.error || last.message || last.state}</b>
            </span>
          ) : (
            <span className="text-faint">No work running.</span>
          )}
        </div>
        {now ? (
          <Button kind="small" disabled={stop.isPending} onClick={() => stop.mutate(now.id)}>
            Stop
          </Button>
        ) : null}
        <span className="flex-1" />
        {summary?.traced ? <span className="whitespace-nowrap text-faint">last look {clock(summary.traced)}</span> : null}
        <Button kind="small" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "Close log" : "Log"}
        </Button>
      </div>
    </footer>
  );
}
