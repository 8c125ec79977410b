import type { ProblemReply } from "./types";

/** Problem is an answer that is an error, as RFC 9457 problem details. */
export class Problem extends Error {
  constructor(readonly reply: Pick<ProblemReply, "title" | "detail" | "status">) {
    super(reply.detail);
  }
}

async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  let answer: Response;
  try {
    answer = await fetch(`/api${path}`, {
      method,
      headers: body === undefined ? {} : { "Content-Type": "application/json" },
      body: body === undefined ? null : JSON.stringify(body),
    });
  } catch {
    throw new Problem({ title: "No answer", detail: "Bound Crate does not answer. Is it still running?", status: 0 });
  }
  if (!answer.ok) {
    const reply = (await answer.json().catch(() => null)) as ProblemReply | null;
    throw new Problem(
      reply ?? { title: "It did not work", detail: `The answer was ${answer.status}.`, status: answer.status },
    );
  }
  return (answer.status === 204 ? undefined : await answer.json()) as T;
}

type Query = Record<string, string | number | undefined | null>;

/** query appends the parameters that have a value. */
export function query(path: string, q: Query): string {
  const p = new URLSearchParams();
  for (const [k, v] of Object.entries(q)) if (v !== undefined && v !== null && v !== "") p.set(k, String(v));
  const s = p.toString();
  return s ? `${path}?${s}` : path;
}

export const api = {
  get: <T>(path: string, q: Query = {}) => call<T>("GET", query(path, q)),
  post: <T>(path: string, body?: unknown) => call<T>("POST", path, body ?? {}),
  put: <T>(path: string, body: unknown) => call<T>("PUT", path, body),
  drop: <T>(path: string, q: Query = {}) => call<T>("DELETE", query(path, q)),
};
