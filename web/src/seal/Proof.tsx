import type { ProofLine } from "../api/types";

/** Proof is the stamped lines of a seal, the one that failed on top. */
export function Proof({ lines }: { lines: ProofLine[] }) {
  const sorted = [...lines].sort((a, b) => Number(a.ok) - Number(b.ok));
  return (
    <ul aria-label="Proof" className="border-t border-rule">
      {sorted.map((l) => (
        <li
          key={l.code}
          className="grid grid-cols-[116px_minmax(0,1fr)_minmax(0,auto)] items-center gap-3 border-b border-rule py-2"
        >
          <span
            className={`caps -rotate-2 justify-self-start border-2 px-1.5 text-[13px] ${l.ok ? "border-moss text-moss" : "border-rust text-rust"}`}
          >
            {l.ok ? "proved" : l.code === "bytes" ? "damaged" : "not complete"}
          </span>
          <span>
            <b className="font-medium">{l.what}</b>
            {l.note ? <span className="block text-[12px] text-faint">{l.note}</span> : null}
          </span>
          <span className="font-mono text-[12px] whitespace-nowrap">{l.figure}</span>
        </li>
      ))}
    </ul>
  );
}
