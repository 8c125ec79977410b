import { useQuery } from "@tanstack/react-query";
import { hierarchy, treemap, treemapSquarify, type HierarchyRectangularNode } from "d3-hierarchy";
import { useLayoutEffect, useRef, useState, type RefObject } from "react";

import * as acts from "../api/acts";
import type { Node, Spread as Answer, SpreadDrive, Summary } from "../api/types";
import { Choose } from "../shared/Choose";
import { tip } from "../shared/Tip";
import { bytes, exact, plural } from "../shared/words";
import { Threads } from "./Threads";
import type { Narrows } from "./narrow";

export const looks: Record<Node["kind"], string> = {
  "": "bg-band border-rule",
  own: "bg-ink text-sheet border-ink",
  project: "bg-field hatch-sea border-sea",
  dump: "bg-field hatch-ochre border-ochre",
  library: "bg-field border-sea",
  other: "bg-mosswash border-moss",
  unplugged: "border-dashed border-ochre",
  missing: "hatch-rust border-rust",
};
const says: Record<Node["kind"], string> = {
  "": "of several kinds",
  own: "project folder",
  project: "another project's folder",
  dump: "Downloads or temporary folder",
  library: "library or managed store",
  other: "elsewhere",
  unplugged: "not connected",
  missing: "not found anywhere",
};

/** Narrows is what the picture narrows the ledger to. */

/** useWidth is an element's width, also when the window changes. */
export function useWidth(): [RefObject<HTMLDivElement | null>, number] {
  const at = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    const e = at.current;
    if (!e) return;
    const watch = new ResizeObserver(() => setWidth(e.clientWidth));
    watch.observe(e);
    setWidth(e.clientWidth);
    return () => watch.disconnect();
  }, []);
  return [at, width];
}

/** How the picture is drawn is remembered for all projects, on this machine. */
const kept = "boundcrate.spread";

/** useForm is how the spread is drawn, and its switch. */
export function useForm() {
  const [form, setForm] = useState(() => localStorage.getItem(kept) ?? "folders");
  const choose = (to: string) => {
    localStorage.setItem(kept, to);
    setForm(to);
  };
  return {
    form,
    choice: (
      <Choose
        label="Spread view"
        value={form}
        onChoose={choose}
        choices={[
          { value: "folders", word: "folders", tip: "Folders by size" },
          { value: "large", word: "larger", tip: "Nested folders by size" },
          { value: "threads", word: "threads", tip: "Links from documents to folders" },
        ]}
      />
    ),
  };
}

/** Spread is the picture of where a project's material lives: folders by their bytes, or threads from documents. */
export function Spread({
  summary,
  form,
  at,
  onOnly,
}: {
  summary: Summary;
  form: string;
  at: { place: string; document: string };
  onOnly: Narrows;
}) {
  const id = summary.project.id;
  const [ref, width] = useWidth();
  const { data } = useQuery({
    ...acts.spread(id),
    enabled: summary.snapshot !== "",
    placeholderData: (old) => old,
  });
  return (
    <section aria-label="Spread" className="px-[18px] pb-3">
      <div ref={ref}>
        {data && width > 0 ? (
          form === "threads" ? (
            <Threads spread={data} width={width} at={at} onOnly={onOnly} />
          ) : (
            <Drives spread={data} width={width} tall={form === "large"} chosen={at.place} onOnly={onOnly} />
          )
        ) : (
          <div className="h-[101px]" />
        )}
      </div>
    </section>
  );
}

const gap = 10;
const least = 136;

/** Drives stand side by side; roots of bytes keep small ones wide enough to read and to click. */
function Drives({
  spread,
  width,
  tall,
  chosen,
  onOnly,
}: {
  spread: Answer;
  width: number;
  tall: boolean;
  chosen: string;
  onOnly: Narrows;
}) {
  const height = tall ? 300 : 78;
  const missing = spread.missing > 0;
  const root = (bytes: number) => Math.max(12, Math.sqrt(Math.max(bytes, 1)) / 100);
  const weights = spread.drives.map((d) => apart(d.tree).reduce((sum, n) => sum + root(n.bytes), 0));
  if (missing) weights.push(root(spread.lastSeen));
  const sum = weights.reduce((n, w) => n + w, 0);
  const room = Math.max(0, width - gap * (weights.length - 1) - least * weights.length);
  const wide = (i: number) => least + (room * (weights[i] ?? 0)) / sum;
  return (
    <div className="flex narrow:overflow-x-auto" style={{ gap }}>
      {spread.drives.map((d, i) => (
        <Drive
          key={d.tree.path}
          drive={d}
          width={Math.floor(wide(i))}
          height={height}
          tall={tall}
          chosen={chosen}
          onOnly={onOnly}
        />
      ))}
      {missing ? (
        <div style={{ width: Math.floor(wide(weights.length - 1)) }}>
          <h2 className="caps pb-0.5 text-[13px]">No place</h2>
          <div className="border-t-[1.5px] border-ink pt-[3px]">
            <button
              type="button"
              onClick={() => onOnly({ state: "missing" })}
              style={{ height }}
              className={`flex w-full flex-col overflow-hidden border px-1.5 py-1 text-left ${looks.missing}`}
              {...tip(`${plural(spread.missing, "file")} not found anywhere`)}
            >
              <span className="font-mono text-[11.5px] leading-[1.35] font-medium">missing</span>
              <span className="text-[11px] leading-[1.35] text-ink2">
                {plural(spread.missing, "file")}
                {spread.lastSeen > 0 ? ` · last seen ${bytes(spread.lastSeen)}` : ""}
              </span>
            </button>
          </div>
        </div>
      ) : null}
    </div>
  );
}

type Box = HierarchyRectangularNode<Node>;

/** What is dangerous is drawn at least this large, as a share of its drive. */
const visible = { low: 0.18, tall: 0.07 };

/** apart leaves out folders that hold things of several kinds: what is in them stands there by itself. */
const apart = (n: Node, top = true): Node[] =>
  n.nodes.length > 0 && (top || n.kind === "")
    ? n.nodes
        .flatMap((c) => apart(c, false))
        .map((c) => (top ? c : { ...c, name: [n.name, c.name].filter(Boolean).join("/") }))
    : [{ ...n, nodes: [] }];

function Drive({
  drive: d,
  width,
  height,
  tall,
  chosen,
  onOnly,
}: {
  drive: SpreadDrive;
  width: number;
  height: number;
  tall: boolean;
  chosen: string;
  onOnly: Narrows;
}) {
  const total = Math.max(d.tree.bytes, 1);
  const floor = total * (tall ? visible.tall : visible.low);
  const root = hierarchy(tall ? d.tree : { ...d.tree, nodes: apart(d.tree) }, (n) => n.nodes)
    .sum((n) => (n.nodes.length > 0 ? 0 : Math.max(n.bytes, n.kind === "own" || n.kind === "" ? 1 : floor)))
    .sort((a, b) => (b.value ?? 0) - (a.value ?? 0));
  const map = treemap<Node>()
    .tile(treemapSquarify)
    .size([width, height])
    .paddingInner(3)
    .paddingTop((n) => (n.depth > 0 ? 34 : 0))
    .paddingLeft((n) => (n.depth > 0 ? 4 : 0))
    .paddingRight((n) => (n.depth > 0 ? 4 : 0))
    .paddingBottom((n) => (n.depth > 0 ? 4 : 0))
    .round(true)(root);
  // As deep as fits: a folder is opened only where its folders can be read.
  const opens = (b: Box) =>
    b.depth === 0 || ((b.children?.length ?? 0) > 1 && b.y1 - b.y0 > 92 && b.x1 - b.x0 > 150 && b.depth < 4);
  const drawn: Box[] = [];
  const walk = (b: Box) => {
    if (b.depth > 0) drawn.push(b);
    if (opens(b)) b.children?.forEach(walk);
  };
  walk(map);
  if (drawn.length === 0) drawn.push(map);
  return (
    <div style={{ width }} className="shrink-0">
      <h2 className={`caps truncate pb-0.5 text-[13px] ${d.out ? "text-ochre" : ""}`}>
        {d.name}{" "}
        <span className="font-mono text-[11px] font-normal tracking-normal text-faint normal-case">
          {d.out ? "unplugged" : bytes(d.tree.bytes)}
        </span>
      </h2>
      <div className={`border-t-[1.5px] pt-[3px] ${d.out ? "border-dashed border-ochre" : "border-ink"}`}>
        <div className="relative" style={{ height }}>
          {drawn.map((b, i) => (
            <Block key={i} box={b} open={opens(b) && b.depth > 0} chosen={chosen} onOnly={onOnly} />
          ))}
        </div>
      </div>
    </div>
  );
}

function Block({ box: b, open, chosen, onOnly }: { box: Box; open: boolean; chosen: string; onOnly: Narrows }) {
  const n = b.data;
  const on = chosen !== "" && chosen === n.path;
  const w = b.x1 - b.x0;
  const h = b.y1 - b.y0;
  const name = n.more > 0 ? `and ${n.more} more` : n.name || "in it";
  const what = `${plural(n.files, "file")}${n.bytes > 0 ? ` · ${bytes(n.bytes)}` : ""}`;
  return (
    <button
      type="button"
      aria-pressed={on}
      aria-label={w > 30 && h > 14 ? undefined : `${name}, ${says[n.kind]}, ${what}`}
      onClick={() => onOnly({ place: on ? "" : n.path })}
      {...tip(`${n.path}\n${says[n.kind]}, ${plural(n.files, "file")}, ${exact(n.bytes)}`)}
      style={{ left: b.x0, top: b.y0, width: w, height: h }}
      className={`absolute flex flex-col overflow-hidden border text-left ${w < 24 ? "" : "px-1.5"} ${h < 40 ? "justify-center" : "py-1"} ${open ? "border-ink2 bg-band text-ink" : looks[n.kind]} ${on ? "outline-2 outline-offset-1 outline-sea" : ""}`}
    >
      {w > 30 && h > 14 ? (
        <span className="block w-full truncate font-mono text-[11.5px] leading-[1.35] font-medium">{name}</span>
      ) : null}
      {w > 50 && h > 30 ? (
        <span
          className={`block w-full truncate text-[11px] leading-[1.35] ${n.kind === "own" && !open ? "opacity-75" : "text-ink2"}`}
        >
          {what}
        </span>
      ) : null}
    </button>
  );
}
