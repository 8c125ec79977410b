import type { GroupedRow } from "../api/types";
import { Path } from "../shared/kit";

/** Replacement is three cells of a grid: a missing file, an arrow, and the file that would stand for it with its warnings. */
export const Replacement = ({ row: r }: { row: GroupedRow }) => (
  <>
    <Path full={r.expected} faint>
      {r.name}
    </Path>
    <span aria-hidden className="text-faint">
      →
    </span>
    <span className="min-w-0">
      <Path full={r.path}>{r.found}</Path>
      {r.warnings.map((w) => (
        <span key={w} className="block text-[12px] text-rust">
          {w}
        </span>
      ))}
    </span>
  </>
);
