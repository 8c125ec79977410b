import { matchQuery, type Query, type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import * as acts from "./acts";
import { setAlive } from "./alive";
import { page, type Key } from "./client";
import type { AppState, Event, Job, Summary } from "./types";

/** What tabs tell each other: an event, that the line to the server is cut, or that it stands again and events may have gone unheard. */
type Word = Event | "anew" | "cut";

/** How long a browser that gave the line up is left alone before it is asked for another, in ms. */
const again = 2000;

/**
 * useEvents listens to the server and marks stale what an event is about. A
 * browser holds few lines to one server, so of all tabs one listens, and tells
 * the others; when it closes, the next one takes over.
 */
export function useEvents() {
  const client = useQueryClient();
  useEffect(() => {
    const heard = (e: Word) => {
      if (e === "cut") return setAlive(false);
      setAlive(true);
      if (e === "anew") return stale(client, [[]]);
      if (e.by === page) return; // what it did itself it knows
      switch (e.type) {
        case "job":
          if (e.job) keepJob(client, e.job);
          break;
        case "drives":
          stale(client, acts.stale.drives());
          break;
        case "looked":
          client.setQueryData<Summary>(
            acts.summary(e.project).queryKey,
            (old) => old && { ...old, traced: e.looked ?? old.traced },
          );
          break;
        case "kept":
          stale(client, acts.stale.ofKeep(e.project));
          break;
        case "plan":
          stale(client, acts.stale.ofPlan(e.project));
          break;
        case "snapshot":
        case "project":
          stale(client, acts.stale.ofProject(e.project));
          break;
      }
    };
    const others = new BroadcastChannel("boundcrate-events");
    others.onmessage = (m) => heard(m.data as Word);
    let ended = new AbortController();
    const listen = (signal: AbortSignal) =>
      new Promise<void>((over) => {
        let line: EventSource;
        let waiting = 0;
        const tell = (e: Word) => {
          heard(e);
          others.postMessage(e);
        };
        const dial = () => {
          line = new EventSource("/api/events");
          // What happened before the line stood, or while it was cut, went unheard.
          line.onopen = () => tell("anew");
          line.onmessage = (m) => tell(JSON.parse(m.data as string) as Event);
          // A browser dials again by itself, unless something else answered in the server's place.
          line.onerror = () => {
            if (signal.aborted) return;
            tell("cut");
            if (line.readyState === EventSource.CLOSED) waiting = window.setTimeout(dial, again);
          };
        };
        dial();
        signal.addEventListener("abort", () => {
          window.clearTimeout(waiting);
          line.close();
          over();
        });
      });
    const begin = () => {
      const { signal } = ended;
      navigator.locks.request("boundcrate-events", { signal }, () => listen(signal)).catch(() => undefined); // the tab closed while it waited
    };
    // A page that is left may be kept, frozen, to be come back to: it must not go on holding the line.
    const left = () => ended.abort();
    const back = (e: PageTransitionEvent) => {
      if (!e.persisted) return;
      ended = new AbortController();
      begin();
      heard("anew");
    };
    window.addEventListener("pagehide", left);
    window.addEventListener("pageshow", back);
    begin();
    return () => {
      window.removeEventListener("pagehide", left);
      window.removeEventListener("pageshow", back);
      ended.abort();
      others.close();
    };
  }, [client]);
}

/**
 * stale asks anew, each question once, by however many keys it is stale. A first question still under way is dropped
 * before: its answer may be older than the event, and an invalidation would not repeat it.
 */
function stale(client: QueryClient, keys: readonly Key[]) {
  const predicate = (q: Query) => keys.some((queryKey) => matchQuery({ queryKey }, q));
  void client.cancelQueries({ predicate }).then(() => client.invalidateQueries({ predicate }));
}

function keepJob(client: QueryClient, job: Job) {
  client.setQueryData<AppState>(acts.state().queryKey, (old) => {
    if (!old) return old;
    const jobs = old.jobs.some((j) => j.id === job.id)
      ? old.jobs.map((j) => (j.id === job.id ? job : j))
      : [job, ...old.jobs];
    return { ...old, jobs };
  });
  if (job.state === "running") return;
  // What only tries something answers whoever asked, and changes nothing.
  if (job.kind === "try") {
    if (client.isFetching(acts.state()) > 0) stale(client, [acts.state().queryKey]);
    return;
  }
  // The contents a trace reads in passing say what was last seen.
  // A state asked for while the job ran may arrive after its end.
  stale(client, [...acts.stale.drives(), ...acts.stale.held(), ...acts.stale.ofProject(job.project)]);
}
