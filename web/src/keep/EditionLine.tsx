import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef } from "react";

import type { Edition } from "../api/types";
import { Badge } from "../shared/parts";
import { tip } from "../shared/Tip";
import { clock } from "../shared/words";
import { byTime, rowsOf, strokesOf, type Strokes } from "./lanes";
import { changes, made } from "./words";

const height = 30;
const step = 16;

/** EditionLine draws all editions: time runs down, alternatives branch off to the right. */
export function EditionLine({
  list,
  current,
  selected,
  marked,
  onSelect,
}: {
  list: readonly Edition[];
  current: number;
  selected: number;
  marked: number;
  onSelect: (id: number) => void;
}) {
  const rows = useMemo(() => rowsOf(byTime(list)), [list]);
  const { strokes, width } = useMemo(() => strokesOf(rows), [rows]);
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- the list is meant to re-render as it scrolls
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 8,
    useFlushSync: false,
  });
  const show = selected || current;
  useEffect(() => {
    const at = rows.findIndex((r) => "edition" in r && r.edition.id === show);
    if (at >= 0) virtual.scrollToIndex(at);
  }, [rows, show, virtual]);
  return (
    <div ref={scroller} className="min-h-0 flex-1 overflow-auto" tabIndex={0} role="group" aria-label="Editions">
      <ul className="relative" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map((v) => {
          const row = rows[v.index];
          const lines = strokes[v.index];
          if (!row || !lines) return null;
          return (
            <li key={v.key} className="absolute inset-x-0" style={{ top: v.start, height }}>
              {"edition" in row ? (
                <Line
                  e={row.edition}
                  current={row.edition.id === current}
                  selected={row.edition.id === selected}
                  marked={row.edition.id === marked}
                  onSelect={onSelect}
                  drawn={<Drawn of={lines} width={width} e={row.edition} current={row.edition.id === current} />}
                />
              ) : (
                <div className="flex h-full items-center gap-3 pl-[18px]">
                  <Drawn of={lines} width={width} />
                  <h3 className="caps text-[12.5px] text-faint">{day(row.day)}</h3>
                </div>
              )}
            </li>
          );
        })}
      </ul>
    </div>
  );
}

const day = (iso: string) =>
  new Date(iso).toLocaleDateString(undefined, { weekday: "short", day: "numeric", month: "short", year: "numeric" });

function Line({
  e,
  current,
  selected,
  marked,
  onSelect,
  drawn,
}: {
  e: Edition;
  current: boolean;
  selected: boolean;
  marked: boolean;
  onSelect: (id: number) => void;
  drawn: React.ReactNode;
}) {
  const note = e.note.split("\n")[0] ?? "";
  const sent = e.sealed.flatMap((s) => s.sent);
  return (
    <button
      type="button"
      aria-pressed={selected}
      onClick={() => onSelect(e.id)}
      className={`flex h-full w-full items-center gap-3 border-b border-hair pr-[18px] pl-[18px] text-left -outline-offset-2 ${selected ? "bg-seawash" : "hover:bg-band"}`}
    >
      {drawn}
      <span className="w-8 shrink-0 text-right font-mono text-[12px]">{e.id}</span>
      <span className="w-[62px] shrink-0 font-mono text-[12px] text-faint">{clock(e.at).slice(0, 5)}</span>
      <span className={`min-w-0 flex-1 truncate ${current ? "font-semibold" : ""}`} {...tip(e.note)}>
        {note || <span className="text-faint">{made[e.by]}</span>}
      </span>
      {current ? <Badge tone="sea">current</Badge> : null}
      {marked ? <Badge tone="ochre">compared with</Badge> : null}
      {e.sealed.length > 0 ? (
        <Badge tone="moss" why={e.sealed.map((s) => s.label).join("\n")}>
          {sent.length > 0 ? `sent to ${sent.filter(Boolean).join(", ") || "somebody"}` : "sealed"}
        </Badge>
      ) : null}
      <span className="w-[190px] shrink-0 truncate text-right text-[12px] text-ink2 max-[1100px]:hidden">
        {changes(e.since)}
      </span>
    </button>
  );
}

const x = (lane: number) => lane * step + step / 2;

/** Drawn is what of the lines passes through a row, and the mark of its edition. */
function Drawn({ of, width, e, current }: { of: Strokes; width: number; e?: Edition; current?: boolean }) {
  const wide = Math.min(width, 12) * step;
  const mid = height / 2;
  const size = e && (e.by === "hand" || e.note || current) ? 10 : 6;
  return (
    <svg width={wide} height={height} className="shrink-0 overflow-hidden text-ink2" aria-hidden>
      <g stroke="currentColor" strokeWidth="1.4" fill="none">
        {of.up.map((l) => (
          <path key={`u${l}`} d={`M${x(l)} 0V${mid}`} />
        ))}
        {of.down.map((l) => (
          <path key={`d${l}`} d={`M${x(l)} ${mid}V${height}`} />
        ))}
        {of.across.map(([a, b]) => (
          <path key={`a${b}`} d={`M${x(a)} ${mid}H${x(b)}`} strokeDasharray="3 2" />
        ))}
      </g>
      {e && of.own !== null ? (
        <rect
          x={x(of.own) - size / 2}
          y={mid - size / 2}
          width={size}
          height={size}
          className={current ? "fill-sea stroke-sea" : "fill-sheet stroke-ink2"}
          strokeWidth="1.4"
        />
      ) : null}
    </svg>
  );
}
