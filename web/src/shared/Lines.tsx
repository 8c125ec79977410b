import type { AimLine } from "../api/types";
import { count } from "./words";

/** Lines are those of documents that change: old above new. */
export function Lines({ lines }: { lines: readonly AimLine[] }) {
  return lines.map((l, i) => (
    <div key={i} className="mb-2 border-b border-hair pb-2 font-mono text-[12px] wrap-anywhere">
      <p className="text-faint">
        {l.document}, line {count(l.line)}
      </p>
      <del className="block border-l-[3px] border-rust pl-2 no-underline">
        <span className="sr-only">before: </span>
        {l.was}
      </del>
      <ins className="block border-l-[3px] border-moss pl-2 no-underline">
        <span className="sr-only">after: </span>
        {l.becomes}
      </ins>
    </div>
  ));
}
