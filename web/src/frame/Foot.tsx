import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import type { Change } from "../api/client";
import { useAct, useDecisions } from "../api/queries";
import type { AppState, Decision, Job, Summary } from "../api/types";
import { Choose } from "../shared/Choose";
import { useKeys } from "../shared/keys";
import { Badge, Button, More, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { bytes, clock, plural, timeLeft, count } from "../shared/words";
import { stations } from "./stations";

const amount = (j: Job, n: number) => (j.unit === "bytes" ? bytes(n) : count(n));

function pace(j: Job): string {
  const parts = [];
  if (j.total > 0) parts.push(`${amount(j, j.done)} of ${amount(j, j.total)}`);
  else if (j.done > 0) parts.push(j.unit === "bytes" ? bytes(j.done) : plural(j.done, j.unit.replace(/s$/, "")));
  // Of what takes longer than a second each, the time that is left says more.
  if (Math.round(j.rate) > 0) parts.push(`${amount(j, Math.round(j.rate))} a second`);
  if (j.left > 0) parts.push(timeLeft(j.left));
  return parts.join(" · ");
}

/** Bar shows how far work has come; without a total it only shows that it goes on. */
export function Bar({ job: { share, total, title: label } }: { job: Job }) {
  return (
    <svg
      viewBox="0 0 180 8"
      preserveAspectRatio="none"
      width="180"
      height="8"
      className="shrink-0 text-sea"
      role="progressbar"
      aria-label={label}
      aria-valuenow={total > 0 ? Math.round(share * 100) : undefined}
      aria-valuemin={0}
      aria-valuemax={100}
    >
      {total > 0 ? (
        <rect width={180 * share} height="8" fill="currentColor" />
      ) : (
        <rect className="going" width="40" height="8" fill="currentColor" />
      )}
      <rect x=".5" y=".5" width="179" height="7" fill="none" className="stroke-ink2" />
    </svg>
  );
}

const stateWord = { running: "running", done: "done", stopped: "stopped", failed: "failed" } as const;

/** spoken is what is read out of running work: its beginning, its quarters and its end. */
function spoken(j: Job | undefined): string {
  if (!j) return "";
  if (j.state !== "running") return `${j.title}: ${j.error || j.message || stateWord[j.state]}`;
  const quarter = j.total > 0 ? Math.floor((4 * j.done) / j.total) : 0;
  return quarter > 0 && quarter < 4 ? `${j.title}, ${25 * quarter} per cent` : `${j.title} has begun`;
}

/** Foot shows running work, and opens to what ran lately and to everything that was decided. */
export function Foot({
  state,
  id,
  summary,
}: {
  state: AppState | undefined;
  id: number;
  summary: Summary | undefined;
}) {
  const [open, setOpen] = useState(false);
  const [list, setList] = useState("decisions");
  const stop = useAct((job: string) => acts.stopJob(job));
  const jobs = state?.jobs ?? [];
  const now = jobs.find((j) => j.state === "running");
  const last = jobs[0];
  const showing = id > 0 ? list : "work";
  return (
    <footer className="border-t border-rule bg-sheet text-[12px] text-ink2">
      {open ? (
        <div className="border-b border-rule">
          {id > 0 ? (
            <div className="flex items-center gap-3 bg-band px-4 py-1">
              <Choose
                label="What is listed"
                value={list}
                onChoose={setList}
                choices={[
                  { value: "decisions", word: "decisions" },
                  { value: "work", word: "work done" },
                ]}
              />
            </div>
          ) : null}
          {showing === "work" ? <Log jobs={jobs} /> : <Said id={id} />}
        </div>
      ) : null}
      <p role="status" aria-live="polite" className="sr-only">
        {spoken(now ?? last)}
      </p>
      <div className="flex h-8 items-center gap-3 px-4 narrow:h-auto narrow:min-h-8 narrow:flex-wrap narrow:py-1">
        <div className="flex min-w-0 items-center gap-3">
          {now ? (
            <>
              <span className="truncate">
                {now.title}
                {now.step ? ` · ${now.step}` : ""}
              </span>
              <Bar job={now} />
              <span className="font-mono whitespace-nowrap">{pace(now)}</span>
            </>
          ) : last ? (
            <span className="truncate" {...tip(last.error || last.message)}>
              {last.title}:{" "}
              <b className={`font-medium ${last.state === "failed" ? "text-rust" : ""}`}>
                {last.error || last.message || stateWord[last.state]}
              </b>
            </span>
          ) : (
            <span className="text-faint">No jobs running.</span>
          )}
        </div>
        {now ? (
          <Button kind="small" disabled={stop.isPending} onClick={() => stop.mutate(now.id)}>
            Stop
          </Button>
        ) : null}
        <span className="flex-1" />
        {id > 0 ? <Undoing id={id} summary={summary} /> : null}
        {id > 0 && summary ? <Again id={id} summary={summary} /> : null}
        <Button kind="small" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "Close log" : "Log"}
        </Button>
      </div>
    </footer>
  );
}

/** Again looks at everything once more. */
function Again({ id, summary }: { id: number; summary: Summary }) {
  const retrace = useAct(() => acts.retrace(id));
  const again = () => retrace.mutate(undefined);
  useKeys({ t: again });
  return (
    <span className="flex items-center gap-2 whitespace-nowrap text-faint narrow:flex-wrap">
      {retrace.error ? <span className="text-rust">{retrace.error.message}</span> : null}
      {summary.traced ? (
        <span
          {...tip(
            summary.polled
              ? "Some folders cannot be watched, so the disk is checked every 2 s while this page is open."
              : "The folders are watched. Changes on disk appear by themselves.",
          )}
        >
          {summary.polled ? "checked every 2 s" : "watched"} · last check {clock(summary.traced)}
        </span>
      ) : null}
      <Button kind="small" disabled={retrace.isPending} onClick={again} {...tip("Check everything again  t")}>
        Trace again
      </Button>
    </span>
  );
}

function Log({ jobs }: { jobs: Job[] }) {
  return (
    <ul aria-label="Recent jobs" tabIndex={0} className="max-h-56 overflow-auto -outline-offset-2">
      {jobs.length === 0 ? <li className="px-4 py-2 text-faint">No jobs yet.</li> : null}
      {jobs.map((j) => (
        <li
          key={j.id}
          className="grid grid-cols-[70px_minmax(160px,1fr)_80px_2fr] gap-3 border-b border-hair px-4 py-1"
        >
          <span className="font-mono text-faint">{clock(j.began)}</span>
          <span className="truncate">{j.title}</span>
          <span className={j.state === "failed" ? "text-rust" : j.state === "done" ? "text-moss" : ""}>
            {stateWord[j.state]}
          </span>
          <span className="truncate" {...tip(j.error || j.message)}>
            {j.error || j.message || j.step}
          </span>
        </li>
      ))}
    </ul>
  );
}

/** useUndo steps back and forth through what was decided. */
function useUndo(id: number) {
  const client = useQueryClient();
  // A step is done once the page knows what is left to be undone.
  const step = (change: Change<void>) => ({
    ...change,
    run: async () => {
      await change.run();
      await client.refetchQueries({ queryKey: acts.summary(id).queryKey, exact: true });
    },
  });
  const undo = useAct(() => step(acts.undo(id)));
  const redo = useAct(() => step(acts.redo(id)));
  return { undo, redo, busy: undo.isPending || redo.isPending, error: undo.error ?? redo.error };
}

/** Undoing is the two small buttons, and their keys on every station. */
function Undoing({ id, summary }: { id: number; summary: Summary | undefined }) {
  const { undo, redo, busy, error } = useUndo(id);
  const can = { undo: (summary?.canUndo ?? false) && !busy, redo: (summary?.canRedo ?? false) && !busy };
  useKeys({
    u: (e) => {
      if (e.shiftKey && can.redo) redo.mutate(undefined);
      if (!e.shiftKey && can.undo) undo.mutate(undefined);
    },
  });
  return (
    <span className="flex items-center gap-1.5">
      {error ? <span className="text-rust">{error.message}</span> : null}
      <Button
        kind="small"
        disabled={!can.undo}
        onClick={() => undo.mutate(undefined)}
        {...tip("Undo the last decision  u")}
      >
        Undo
      </Button>
      <Button
        kind="small"
        disabled={!can.redo}
        onClick={() => redo.mutate(undefined)}
        {...tip("Redo the last undone decision  Shift u")}
      >
        Redo
      </Button>
    </span>
  );
}

const where: Record<Decision["kind"], string> = {
  mend: "mend",
  move: "mend",
  wish: "stow",
  leave: "stow",
  carry: "stow",
  aside: "set aside",
  meant: "meant",
};
const stationOf = (d: Decision) => stations.find((s) => s.path === where[d.kind])?.name ?? "";

/** Said is everything that was decided, newest first. */
function Said({ id }: { id: number }) {
  const { data, error } = useDecisions(id);
  return (
    <>
      <Trouble error={error} />
      <ul aria-label="Decisions" tabIndex={0} className="max-h-56 overflow-auto -outline-offset-2">
        {data?.list.length === 0 ? (
          <li className="px-4 py-2 text-faint">
            No decisions yet. Repairs and choices are listed here and can be undone.
          </li>
        ) : null}
        {data?.list.map((d) => (
          <li
            key={d.id}
            className="grid grid-cols-[70px_60px_minmax(0,1fr)_auto] items-center gap-3 border-b border-hair px-4 py-1"
          >
            <span className="font-mono text-faint">{clock(d.at)}</span>
            <span>{stationOf(d)}</span>
            <span className={`truncate ${d.undone ? "text-faint line-through" : ""}`} {...tip(d.say)}>
              {d.say}
            </span>
            <span className="flex gap-1.5">
              {d.undone ? <Badge tone="sea">undone</Badge> : null}
              {d.lost && !d.undone ? <Badge>no longer used</Badge> : null}
            </span>
          </li>
        ))}
        {data ? <More of={data.list} all={data.all} /> : null}
      </ul>
    </>
  );
}
