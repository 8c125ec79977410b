import type { ReactNode } from "react";

import type { Badge as BadgeData, Row } from "../api/types";
import { Ledger, Text, type Column } from "../ledger/Ledger";
import { Mark } from "../shared/Mark";
import { Badge, Empty } from "../shared/parts";
import { usePlace } from "../shared/place";
import { tip } from "../shared/Tip";
import { bytes, exact, plural, count } from "../shared/words";

export interface ListProps {
  id: number;
  selected: string;
  onSelect: (key: string) => void;
  onNone: () => void;
  lead: ReactNode;
}

const tones: Partial<Record<BadgeData["code"], "sea" | "moss">> = {
  mended: "moss",
  loose: "sea",
  guess: "sea",
  write: "sea",
  library: "sea",
  store: "sea",
};

/** size says what there is of a file: bytes, frames of a sequence, or nothing. */
function size(r: Row): string {
  if (r.kind === "sequence" && r.of > 0) return `${r.files} of ${r.of}`;
  const nothing = r.write || r.state === "missing" || r.state === "twins" || r.state === "unsaved";
  return nothing || (r.state === "unplugged" && r.size === 0) ? "—" : bytes(r.size);
}

const columns: Column<Row>[] = [
  {
    id: "name",
    title: "file",
    width: "minmax(150px,1.25fr)",
    text: (r) => r.name,
    cell: (r) => (
      <span className="flex min-w-0 items-center gap-2">
        <span className="truncate font-medium" {...tip(r.name)}>
          {r.name}
        </span>
        {r.badges.map((b) => (
          <Badge key={b.code} tone={tones[b.code] ?? "ochre"}>
            {b.text}
          </Badge>
        ))}
      </span>
    ),
  },
  {
    id: "place",
    title: "where",
    width: "minmax(0,1.5fr)",
    text: (r) => r.common + r.parting,
    cell: (r) => (
      <span className="block truncate font-mono text-[12px] text-faint" {...tip(r.common + r.parting)}>
        {r.common}
        <b className="font-medium text-ink">{r.parting}</b>
      </span>
    ),
  },
  { id: "kind", title: "kind", width: "70px", text: (r) => r.word },
  { id: "state", title: "state", width: "78px", extra: true, text: (r) => r.state },
  { id: "use", title: "use", width: "64px", extra: true, text: (r) => r.use },
  { id: "origin", title: "origin", width: "92px", extra: true, text: (r) => r.origin },
  {
    id: "size",
    title: "size",
    width: "84px",
    right: true,
    text: size,
    cell: (r) => (
      <span className="font-mono text-[12px] whitespace-nowrap tabular-nums" {...tip(r.size > 0 ? exact(r.size) : "")}>
        {size(r)}
      </span>
    ),
  },
  {
    id: "uses",
    title: "uses",
    width: "50px",
    right: true,
    text: (r) => count(r.uses),
    cell: (r) => <Text right>{count(r.uses)}</Text>,
  },
];

const groups = ["state", "place", "kind", "document"].map((value) => ({ value, word: value }));
const facets = ["state", "kind", "place", "document", "badge"] as const;

const mark = (r: Row | null, group: string) => <Mark state={r?.state ?? group} />;

/** Files is the ledger of every file the project asks for. */
export function Files(p: ListProps) {
  const place = usePlace();
  const narrowed = facets.filter((f) => place.get(f) !== "");
  return (
    <Ledger<Row>
      {...p}
      name="files"
      label="References"
      columns={columns}
      groups={[...groups, { value: "none", word: "one list" }]}
      facets={facets}
      sums={(s) => `${plural(s.references, "reference")} · ${plural(s.files, "file")} · ${bytes(s.bytes)}`}
      mark={mark}
      empty={<Empty title="No references match">Choose another place, or show all.</Empty>}
      lead={
        <>
          {p.lead}
          {narrowed.map((f) => (
            <button
              key={f}
              type="button"
              onClick={() => place.set({ [f]: "" })}
              className="rounded-xs border border-sea bg-seawash px-2 py-0.5 text-[12px]"
              {...tip("Show all")}
            >
              {f}: {place.get(f).split("/").at(-1)} <span aria-hidden>×</span>
            </button>
          ))}
        </>
      }
    />
  );
}
