import type { DocumentRow } from "../api/types";
import { Badge } from "../shared/parts";
import { Ledger, Text, type Column } from "../ledger/Ledger";
import { tip } from "../shared/Tip";
import { bytes, plural, count } from "../shared/words";
import type { ListProps } from "./Files";

const columns: Column<DocumentRow>[] = [
  {
    id: "name",
    title: "document",
    width: "minmax(150px,1.25fr)",
    text: (d) => d.name,
    cell: (d) => (
      <span className="flex min-w-0 items-center gap-2" style={{ paddingLeft: 14 * d.depth }}>
        <span className="truncate font-medium" {...tip(d.name)}>
          {d.name}
        </span>
        {d.use === "used" ? null : <Badge>{d.use}</Badge>}
        {d.guessed ? <Badge tone="sea">guessed</Badge> : null}
      </span>
    ),
  },
  {
    id: "place",
    title: "folder",
    width: "minmax(0,1.2fr)",
    text: (d) => d.folder,
    cell: (d) => <Text mono>{d.folder}</Text>,
  },
  { id: "format", title: "format", width: "minmax(0,1fr)", text: (d) => d.title },
  {
    id: "references",
    title: "references",
    width: "76px",
    right: true,
    text: (d) => count(d.references),
  },
  { id: "open", title: "not found", width: "70px", right: true, text: (d) => String(d.open) },
  { id: "depth", title: "depth", width: "50px", right: true, extra: true, text: (d) => String(d.depth) },
  { id: "size", title: "size", width: "80px", right: true, extra: true, text: (d) => bytes(d.size) },
];

/** Documents is the ledger of everything that was read to find what the project uses. */
export function Documents(p: ListProps) {
  return (
    <Ledger<DocumentRow>
      {...p}
      name="documents"
      label="Documents"
      columns={columns}
      sums={(s) => `${plural(s.rows, "document")} · ${plural(s.references, "reference")}`}
      empty={null}
    />
  );
}
