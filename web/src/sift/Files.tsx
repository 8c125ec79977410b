import type { Berth } from "../api/types";
import { Ledger, type Column } from "../ledger/Ledger";
import { Path } from "../shared/kit";
import { Badge, Button, Chip, Empty, Trouble } from "../shared/parts";
import { usePlace } from "../shared/place";
import { tip } from "../shared/Tip";
import { bytes, exact, plural } from "../shared/words";
import { useWishes } from "../stow/wishes";

/** facets are what a line of the weighing, or a part of the gauge, narrows the files to. */
export const facets = ["only", "kind", "use", "class", "origin", "why", "doc", "along"] as const;
/** nothing narrows by none of them. */
export const nothing = Object.fromEntries(facets.map((f) => [f, ""]));

const faint = (b: Berth) => b.absent || b.stays;

/** Files is every file that could travel: which do, and why the others stay. */
export function Files({ id }: { id: number }) {
  const place = usePlace();
  const { say, busy, error, forget } = useWishes(id);
  const narrowed = facets.filter((f) => place.get(f) !== "");
  return (
    <>
      <Trouble error={error} onAway={forget} />
      <Ledger<Berth>
        id={id}
        name="berths"
        label="Files"
        columns={columns}
        groups={groups}
        facets={facets}
        selected={place.get("sel")}
        onSelect={(sel) => place.set({ sel })}
        sums={(s) => `${plural(s.files, "file travels", "files travel")} · ${bytes(s.bytes)}`}
        faint={faint}
        keys={(b, chosen) => ({ x: b && !busy ? () => say(chosen.said, { stays: !b.stays }) : undefined })}
        empty={<Empty title="No files match">Clear the filter to see all files.</Empty>}
        lead={
          narrowed.length > 0 ? (
            <>
              {narrowed.map((f) => (
                <Chip key={f} on onClick={() => place.set({ [f]: "" })}>
                  {place.get(f).split("/").at(-1)} ×
                </Chip>
              ))}
            </>
          ) : null
        }
        acts={({ said }) => (
          <>
            <Button kind="small" disabled={busy} onClick={() => say(said, { stays: true })}>
              Stay
            </Button>
            <Button kind="small" disabled={busy} onClick={() => say(said, { stays: false })}>
              Travel
            </Button>
            <Button kind="small" disabled={busy} onClick={() => say(said, { reset: true })}>
              Follow the switches
            </Button>
          </>
        )}
      />
    </>
  );
}

const groups = [
  { value: "none", word: "one list" },
  { value: "from", word: "place" },
  { value: "kind", word: "kind" },
  { value: "use", word: "use" },
  { value: "class", word: "sort" },
  { value: "whose", word: "whose" },
  { value: "document", word: "document" },
  { value: "why", word: "why" },
];

const columns: Column<Berth>[] = [
  {
    id: "was",
    title: "file",
    width: "minmax(0,1fr)",
    text: (b) => b.was,
    cell: (b) => (
      <span className="block truncate font-medium" {...tip(b.was)}>
        {b.was}
      </span>
    ),
  },
  {
    id: "from",
    title: "where",
    width: "minmax(0,1fr)",
    text: (b) => b.from,
    cell: (b) => <Path faint>{b.from}</Path>,
  },
  { id: "kind", title: "kind", width: "70px", text: (b) => b.word },
  { id: "use", title: "use", width: "64px", text: (b) => (b.along ? "along" : b.use) },
  {
    id: "remark",
    title: "travels or stays",
    width: "minmax(0,1fr)",
    text: (b) => (b.absent ? b.whyWord : "travels"),
    cell: (b) =>
      b.absent ? (
        <span className="flex min-w-0 items-center gap-1.5">
          <Badge tone={b.stays ? "ochre" : "rust"}>{b.stays ? "stays" : "missing"}</Badge>
          <span className="truncate text-[12px] text-faint" {...tip(b.whyWord)}>
            {b.whyWord}
          </span>
        </span>
      ) : (
        <span className="text-[12px]">travels</span>
      ),
  },
  {
    id: "size",
    title: "size",
    width: "76px",
    right: true,
    text: (b) => (b.absent && !b.stays ? "—" : bytes(b.size)),
    cell: (b) => (
      <span className="font-mono text-[12px] whitespace-nowrap" {...tip(exact(b.size))}>
        {b.absent && !b.stays ? "—" : bytes(b.size)}
      </span>
    ),
  },
];
