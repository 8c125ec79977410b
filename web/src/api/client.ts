import type { ProblemReply } from "./types";

/** Problem is an answer that is an error, as RFC 9457 problem details. */
export class Problem extends Error {
  constructor(readonly reply: Pick<ProblemReply, "title" | "detail" | "status">) {
    super(reply.detail);
  }
}

/** page is this page, so that it is not told of what it did itself. */
export const page = crypto.randomUUID();

async function call<T>(method: string, path: string, body?: unknown, signal?: AbortSignal): Promise<T> {
  let answer = await ask(method, `/api${path}`, body, signal);
  // What takes longer goes on as a job, and says where its result will be.
  for (let at = answer.headers.get("Location"); answer.status === 202 && at; at = answer.headers.get("Location"))
    answer = await ask("GET", at, undefined, signal);
  return (answer.status === 204 ? undefined : await answer.json()) as T;
}

async function ask(method: string, address: string, body?: unknown, signal?: AbortSignal): Promise<Response> {
  let answer: Response;
  try {
    answer = await fetch(address, {
      method,
      headers: { "X-Page": page, ...(body === undefined ? {} : { "Content-Type": "application/json" }) },
      body: body === undefined ? null : JSON.stringify(body),
      signal: signal ?? null,
    });
  } catch (e) {
    if (signal?.aborted) throw e;
    throw new Problem({
      title: "No answer",
      detail: "Bound Crate is not responding. Check that it is still running.",
      status: 0,
    });
  }
  if (!answer.ok) {
    const reply = (await answer.json().catch(() => null)) as ProblemReply | null;
    throw new Problem(
      reply ?? { title: "That did not work", detail: `The answer was ${answer.status}.`, status: answer.status },
    );
  }
  return answer;
}

type Query = Record<string, string | number | boolean | undefined | null>;

/** query appends the parameters that have a value. */
export function query(path: string, q: Query): string {
  const p = new URLSearchParams();
  for (const [k, v] of Object.entries(q)) if (v !== undefined && v !== null && v !== "") p.set(k, String(v));
  const s = p.toString();
  return s ? `${path}?${s}` : path;
}

/** Key is what an answer is kept under. */
export type Key = readonly unknown[];

/** asks is a question: what its answer is kept under, and how it is asked, until nobody waits any more. */
export const asks = <T>(queryKey: Key, path: string, q: Query = {}) => ({
  queryKey,
  queryFn: ({ signal }: { signal?: AbortSignal } = {}) => call<T>("GET", query(path, q), undefined, signal),
});

/** Change is an act that changes something, and what it makes stale. */
export interface Change<T> {
  stale: Key[];
  run: (signal?: AbortSignal) => Promise<T>;
}

/** tries is a change that is only asked about: it makes nothing stale. */
export const tries = <T>({ run }: Change<T>): Change<T> => ({ run, stale: [] });

/** trial asks what a change would come to, as a question whose answer is kept. */
export const trial = <T>(queryKey: Key, { run }: Change<T>) => ({
  queryKey,
  queryFn: ({ signal }: { signal?: AbortSignal }) => run(signal),
});

export const changes = <T>(method: string, path: string, body: unknown, stale: Key[], q: Query = {}): Change<T> => ({
  stale,
  run: (signal) => call<T>(method, query(path, q), body, signal),
});
