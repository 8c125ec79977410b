import { sankey, sankeyJustify, sankeyLinkHorizontal, type SankeyLink, type SankeyNode } from "d3-sankey";

import type { Spread } from "../api/types";
import { tip } from "../shared/Tip";
import { bytes, exact, plural } from "../shared/words";
import type { Narrows } from "./narrow";

interface End {
  name: string;
  path: string;
  kind: string;
  more: number;
  left: boolean;
}
interface Line {
  files: number;
  bytes: number;
}

const tones: Record<string, string> = {
  own: "fill-ink stroke-ink",
  project: "fill-sea stroke-sea",
  library: "fill-sea stroke-sea",
  dump: "fill-ochre stroke-ochre",
  unplugged: "fill-ochre stroke-ochre",
  missing: "fill-rust stroke-rust",
  other: "fill-moss stroke-moss",
};

const margin = 190;

/** Threads run from documents at the left to places at the right, as wide as the bytes between them. */
export function Threads({
  spread,
  width,
  at,
  onOnly,
}: {
  spread: Spread;
  width: number;
  at: { place: string; document: string };
  onOnly: Narrows;
}) {
  const nodes: End[] = [
    ...spread.documents.map((d) => ({ ...d, left: true })),
    ...spread.places.map((p) => ({ ...p, left: false })),
  ];
  const most = Math.max(...spread.threads.map((t) => t.bytes), 1);
  const height = Math.max(120, Math.min(320, 24 * Math.max(spread.documents.length, spread.places.length)));
  if (spread.threads.length === 0) return <p className="py-4 text-faint">No document references any file.</p>;
  const graph = sankey<End, Line>()
    .nodeAlign(sankeyJustify)
    .nodeWidth(8)
    .nodePadding(10)
    .extent([
      [margin, 6],
      [width - margin, height - 6],
    ])({
    nodes,
    links: spread.threads.map((t) => ({
      source: t.document,
      target: spread.documents.length + t.place,
      // What is missing has no bytes, and must be seen.
      value: Math.max(t.bytes, most / 60),
      files: t.files,
      bytes: t.bytes,
    })),
  });
  const path = sankeyLinkHorizontal<End, Line>();
  const narrow = (l: SankeyLink<End, Line>) => {
    const from = l.source as SankeyNode<End, Line>;
    const to = l.target as SankeyNode<End, Line>;
    onOnly({ document: from.path, ...(to.kind === "missing" ? { state: "missing" } : { place: to.path }) });
  };
  return (
    <svg width={width} height={height} role="group" aria-label="Threads from documents to places">
      {graph.links.map((l, i) => {
        const from = l.source as SankeyNode<End, Line>;
        const to = l.target as SankeyNode<End, Line>;
        const what = `${from.name || "more documents"} uses ${plural(l.files, "file")} of ${to.name || "more places"}, ${bytes(l.bytes)}`;
        const on = at.document === from.path && at.place === to.path && at.document !== "";
        return (
          <path
            key={i}
            d={path(l) ?? ""}
            fill="none"
            strokeWidth={Math.max(1.5, l.width ?? 0)}
            className={`${(tones[to.kind] ?? "stroke-ink2").split(" ").at(-1)} cursor-pointer fill-none ${on ? "opacity-80" : "opacity-30 hover:opacity-60 focus:opacity-70"}`}
            role="button"
            tabIndex={0}
            aria-label={what}
            onClick={() => narrow(l)}
            onKeyDown={(e) => e.key === "Enter" && narrow(l)}
            {...tip(`${what}\n${exact(l.bytes)}`)}
          />
        );
      })}
      {graph.nodes.map((n, i) => {
        const y = ((n.y0 ?? 0) + (n.y1 ?? 0)) / 2;
        const name = n.more > 0 ? `and ${n.more} more` : n.name;
        const act = () =>
          n.more > 0
            ? undefined
            : onOnly(n.left ? { document: n.path } : n.kind === "missing" ? { state: "missing" } : { place: n.path });
        const on = n.path !== "" && (n.left ? at.document : at.place) === n.path;
        return (
          <g
            key={i}
            role="button"
            tabIndex={0}
            aria-label={`${n.left ? "document" : "place"} ${name}`}
            className="cursor-pointer"
            onClick={act}
            onKeyDown={(e) => e.key === "Enter" && act()}
            {...tip(n.path || name)}
          >
            <rect
              x={n.x0}
              y={n.y0}
              width={(n.x1 ?? 0) - (n.x0 ?? 0)}
              height={Math.max(2, (n.y1 ?? 0) - (n.y0 ?? 0))}
              className={n.left ? "fill-ink2" : (tones[n.kind] ?? "fill-ink2").split(" ")[0]}
            />
            <text
              x={n.left ? (n.x0 ?? 0) - 6 : (n.x1 ?? 0) + 6}
              y={y}
              dy="0.35em"
              textAnchor={n.left ? "end" : "start"}
              className={`fill-ink font-mono text-[11.5px] ${on ? "font-semibold underline" : ""}`}
            >
              {short(name)}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

/** short keeps the end of a long name, which tells it from others; the whole is on hover. */
const short = (name: string) => (name.length <= 25 ? name : `…${name.slice(-24)}`);
