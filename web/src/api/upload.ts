import { page, Problem } from "./client";

/** largest is how large a file may be that is taken in from the window, in bytes. */
export const largest = 2 * 1024 ** 3;

/** upload takes a dropped file in and tells where it is; told hears how much of it arrived. */
export function upload(file: File, told: (sent: number) => void, signal: AbortSignal): Promise<string> {
  return new Promise((done, fail) => {
    const r = new XMLHttpRequest();
    const broken = (detail: string) => fail(new Problem({ title: "Not taken in", detail, status: r.status }));
    r.open("POST", `/api/upload?name=${encodeURIComponent(file.name)}`);
    r.setRequestHeader("X-Page", page);
    r.responseType = "json";
    r.upload.onprogress = (e) => told(e.loaded);
    r.onload = () => {
      const answer = r.response as { path?: string; detail?: string } | null;
      if (r.status === 201 && answer?.path) done(answer.path);
      else broken(answer?.detail ?? `The answer was ${r.status}.`);
    };
    r.onerror = () => broken("Bound Crate is not responding. Check that it is still running.");
    r.onabort = () => fail(new DOMException("stopped", "AbortError"));
    signal.addEventListener("abort", () => r.abort());
    r.send(file);
  });
}
