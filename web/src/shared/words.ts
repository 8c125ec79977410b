// Numbers and dates as people read them, in the manner of the browser's language.

const decimals = (digits: number) =>
  new Intl.NumberFormat(undefined, { minimumFractionDigits: digits, maximumFractionDigits: digits });
const one = decimals(1);
const whole = decimals(0);

/** count is a whole number. */
export const count = (n: number) => whole.format(n);

/** bytes in decimal units, as carriers and drive makers count. */
export function bytes(n: number): string {
  if (n < 1000) return n === 1 ? "1 byte" : `${n} bytes`;
  let v = n;
  for (const unit of ["kB", "MB", "GB", "TB"]) {
    v /= 1000;
    if (v < 1000 || unit === "TB") return `${v < 100 ? one.format(v) : count(v)} ${unit}`;
  }
  return "";
}

/** the bytes of a crate that is planned; some of its sizes may be told by samples. */
export const load = (s: { bytes: number; about: boolean }) => (s.about ? `about ${bytes(s.bytes)}` : bytes(s.bytes));

export const exact = (n: number) => plural(n, "byte");

/** when is a day and a time; the year stands where it is not this one. */
export function when(iso: string): string {
  const d = new Date(iso);
  return d.toLocaleString(undefined, {
    day: "numeric",
    month: "short",
    ...(d.getFullYear() === new Date().getFullYear() ? {} : { year: "numeric" }),
    hour: "2-digit",
    minute: "2-digit",
    hour12: false,
  });
}

export const clock = (iso: string) =>
  new Date(iso).toLocaleTimeString(undefined, { hour: "2-digit", minute: "2-digit", second: "2-digit", hour12: false });

export function length(seconds: number): string {
  const h = Math.floor(seconds / 3600);
  const m = Math.floor(seconds / 60) % 60;
  const s = (seconds % 60).toFixed(3).padStart(6, "0");
  return `${String(h).padStart(2, "0")}:${String(m).padStart(2, "0")}:${s}`;
}

export function timeLeft(seconds: number): string {
  if (seconds < 1) return "a moment left";
  if (seconds < 90) return `${Math.round(seconds)} s left`;
  return `${Math.round(seconds / 60)} min left`;
}

export const plural = (n: number, one: string, many = `${one}s`) => `${count(n)} ${n === 1 ? one : many}`;

export const short = (hash: string) =>
  hash.length < 20 ? hash : `${hash.slice(0, 4)} ${hash.slice(4, 8)} … ${hash.slice(-4)}`;

/** archive tells the names of files that a crate can be. */
export const archive = /\.(zip|tar|tgz|tar\.gz|tar\.zst)$/i;
