import type { Candidate, Facts, Wanted } from "../api/types";
import { modelWords, soundWords } from "../shared/FactList";
import { exact, length, short } from "../shared/words";

/** Compare is the table of facts: what is known of the wanted file beside a candidate; parting ones are raised. */
export function Compare({ wanted, candidate }: { wanted: Wanted; candidate: Candidate }) {
  const { last, told } = wanted;
  const was = last ? { size: last.size, ...said(last.facts) } : { ...said(null), size: told?.size ?? 0 };
  if (!last && told?.seconds) was.length = length(told.seconds);
  const is = said(candidate.facts);
  const rows: Row[] = [row("size", was.size > 0 ? exact(was.size) : "", exact(candidate.size))];
  for (const k of ["length", "sound", "frame", "model", "id"] as const)
    if (was[k] || is[k])
      rows.push({ ...row(k, was[k], is[k] || "—"), parts: last !== null && was[k] !== "" && was[k] !== is[k] });
  if (last?.sha256) {
    const content = short(last.sha256);
    const said = { same: content, other: "different", "": "not read" }[candidate.content];
    rows.push({ ...row("content", content, said), parts: candidate.content === "other" });
  }
  if (candidate.usedBy.length > 0) rows.push(row("used by", "", candidate.usedBy.join(", ")));
  const known = rows.some((r) => r.was !== "");
  return (
    <table className="my-2 w-full font-mono text-[11px]">
      <thead>
        <tr className="text-left font-sans text-faint">
          <th className="font-normal" />
          {known ? <th className="font-normal">{last ? "last seen" : "the document says"}</th> : null}
          <th className="font-normal">candidate</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((r) => (
          <tr key={r.what} className="border-t border-hair align-top">
            <td className="pr-2 font-sans text-faint">{r.what}</td>
            {known ? <td className="pr-2">{r.was || "—"}</td> : null}
            <td className={r.parts ? "bg-rustwash text-rust" : ""}>{r.is}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface Row {
  what: string;
  was: string;
  is: string;
  /** both are known, and are not the same */
  parts: boolean;
}

const row = (what: string, was: string, is: string): Row => ({ what, was, is, parts: was !== "" && was !== is });

const said = (f: Facts | null | undefined) => ({
  length: f?.seconds ? length(f.seconds) : "",
  sound: f ? soundWords(f).replaceAll(/(\d) (?=\p{L})/gu, "$1\u00a0") : "", // a figure stays with its unit
  frame: f?.width ? `${f.width} × ${f.height}` : "",
  model: f ? modelWords(f) : "",
  id: f?.id ? short(f.id) : "",
});
