import { useCallback, useMemo, useState } from "react";

import type { Berth, Wish } from "../api/types";
import { Choose } from "../shared/Choose";
import { Ledger, type Column } from "../ledger/Ledger";
import { Field } from "../shared/kit";
import { Badge, Button, Empty, Trouble } from "../shared/parts";
import { usePlace } from "../shared/place";
import { tip } from "../shared/Tip";
import { bytes, exact, plural, count } from "../shared/words";
import { dragged } from "./Tree";
import { these } from "../ledger/selection";
import { useWishes } from "./wishes";

const filters = [
  { value: "all", word: "all" },
  { value: "clash", word: "clashes" },
  { value: "renamed", word: "renamed" },
  { value: "absent", word: "missing" },
];
const groups = [
  { value: "none", word: "one list" },
  { value: "folder", word: "folder" },
  { value: "kind", word: "kind" },
];

const raised = (b: Berth) => b.clashed;
const faint = (b: Berth) => b.absent || b.stays;

type Say = (wish: Partial<Wish>) => void;

/** Berths is the ledger of the crate: where each file goes, under which name, or that it stays. */
export function Berths({ id, byHand }: { id: number; byHand: number }) {
  const place = usePlace();
  const { say, busy, error, forget } = useWishes(id);
  const of = useCallback(
    (b: Berth): Say =>
      (w) =>
        say(these([b.key]).said, w),
    [say],
  );
  const shown = useMemo(() => columns(of), [of]);
  return (
    <>
      <Trouble error={error} onAway={forget} />
      <Ledger<Berth>
        id={id}
        name="berths"
        label="Berths"
        columns={shown}
        groups={groups}
        facets={["only"]}
        selected={place.get("sel")}
        onSelect={(sel) => place.set({ sel })}
        sums={(s) => `${plural(s.files, "file")} · ${bytes(s.bytes)}`}
        raised={raised}
        drag={dragged}
        faint={faint}
        keys={(b, chosen) => ({ x: b && !busy ? () => say(chosen.said, { stays: !b.stays }) : undefined })}
        empty={<Empty title="No files match">Choose “all” to see every file.</Empty>}
        lead={
          <Choose
            label="Files to show"
            value={place.get("only") || "all"}
            choices={filters}
            onChoose={(v) => place.set({ only: v === "all" ? "" : v })}
          />
        }
        acts={({ said }) => (
          <>
            <Button kind="small" disabled={busy} onClick={() => say(said, { stays: true })}>
              Stay
            </Button>
            <Button kind="small" disabled={busy} onClick={() => say(said, { stays: false })}>
              Travel
            </Button>
            <Into onFolder={(folder) => say(said, { folder })} />
            {byHand > 0 ? (
              <Button kind="small" disabled={busy} onClick={() => say(said, { reset: true })}>
                Reset changes
              </Button>
            ) : null}
          </>
        )}
      />
    </>
  );
}

function Into({ onFolder }: { onFolder: (folder: string) => void }) {
  const [folder, setFolder] = useState("");
  return (
    <form
      className="flex items-center gap-1"
      onSubmit={(e) => {
        e.preventDefault();
        onFolder(folder);
      }}
    >
      <Field
        aria-label="Folder in the crate"
        placeholder="folder in the crate"
        value={folder}
        onChange={(e) => setFolder(e.target.value)}
        low
        mono
        className="w-36"
      />
      <Button kind="small" type="submit">
        Move there
      </Button>
    </form>
  );
}

const columns = (of: (b: Berth) => Say): Column<Berth>[] => [
  {
    id: "was",
    title: "source",
    width: "minmax(0,1.15fr)",
    text: (b) => `${b.from}/${b.was}`,
    cell: (b) => (
      <span className="block truncate" {...tip(`${b.from}/${b.was}`)}>
        {b.was} <span className="font-mono text-[11.5px] text-faint">{b.from.split("/").slice(-2).join("/")}</span>
      </span>
    ),
  },
  {
    id: "folder",
    title: "folder in the crate",
    width: "minmax(0,.6fr)",
    text: (b) => b.folder,
    cell: (b) => (
      <Cell
        key={b.folder}
        label={`Folder of ${b.was}`}
        value={b.folder}
        empty="top"
        onChange={(folder) => of(b)({ folder })}
      />
    ),
  },
  {
    id: "name",
    title: "name in the crate",
    width: "minmax(0,1.6fr)",
    text: (b) => b.name,
    cell: (b) => (
      <span className="flex min-w-0 items-center gap-1.5">
        {b.sequence || b.along === "channels" ? (
          <span className="min-w-32 flex-1 truncate px-1.5 font-medium" {...tip(b.name)}>
            {b.name}
          </span>
        ) : (
          <Cell key={b.name} label={`Name of ${b.was}`} value={b.name} strong onChange={(name) => of(b)({ name })} />
        )}
        {b.sound ? (
          <Badge tone="sea" why={b.sound}>
            {b.sound}
          </Badge>
        ) : null}
        {b.absent || b.stays ? (
          <Badge why={b.stays ? "stays" : b.whyWord}>{b.stays ? "stays" : b.whyWord}</Badge>
        ) : b.typed ? (
          <Badge tone="ochre" why={`You typed “${b.typed}”. It was changed to be portable and unique in the crate.`}>
            changed from “{b.typed}”
          </Badge>
        ) : b.clashed ? (
          <Badge>clash</Badge>
        ) : b.renamed !== "" && b.renamed !== "sound" && b.renamed !== "channels" && !b.wished ? (
          <Badge tone="sea">renamed</Badge>
        ) : null}
        {b.said ? (
          <Button kind="small" className="py-0!" onClick={() => of(b)({ reset: true })} {...tip("Reset this file")}>
            reset
          </Button>
        ) : null}
      </span>
    ),
  },
  { id: "kind", title: "kind", width: "70px", text: (b) => b.word },
  { id: "use", title: "use", width: "64px", extra: true, text: (b) => b.use },
  {
    id: "uses",
    title: "used by",
    width: "56px",
    right: true,
    extra: true,
    text: (b) => count(b.uses),
  },
  {
    id: "size",
    title: "size",
    width: "80px",
    right: true,
    text: (b) => (b.absent ? "—" : bytes(b.size)),
    cell: (b) => (
      <span
        className="font-mono text-[12px] whitespace-nowrap"
        {...tip(b.sequence ? `${b.files} files, ${exact(b.size)}` : exact(b.size))}
      >
        {b.absent ? "—" : bytes(b.size)}
      </span>
    ),
  },
];

/** Cell is text that can be typed over; Enter or leaving it keeps, Escape does not. */
function Cell({
  label,
  value,
  empty = "",
  strong,
  onChange,
}: {
  label: string;
  value: string;
  empty?: string;
  strong?: boolean;
  onChange: (v: string) => void;
}) {
  const [text, setText] = useState(value);
  return (
    <input
      aria-label={label}
      value={text}
      placeholder={empty}
      onChange={(e) => setText(e.target.value)}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
        if (e.key === "Escape") {
          setText(value);
          e.currentTarget.value = value;
          e.currentTarget.blur();
        }
      }}
      onBlur={(e) => e.currentTarget.value !== value && onChange(e.currentTarget.value)}
      className={`${strong ? "w-0 min-w-32 flex-1" : "w-full min-w-0"} truncate border border-transparent bg-transparent px-1.5 py-0.5 hover:border-rule focus:border-sea focus:bg-field ${strong ? "font-medium" : "font-mono text-[12px]"}`}
      {...tip(text)}
    />
  );
}
