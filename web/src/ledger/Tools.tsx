import { DropdownMenu } from "radix-ui";
import { useState, type ReactNode, type RefObject } from "react";

import { Choose, type Choice } from "../shared/Choose";
import { CsvLink, PrintLink } from "../shared/Csv";
import { Field } from "../shared/kit";
import { Button } from "../shared/parts";
import { usePlace } from "../shared/place";
import { tip } from "../shared/Tip";
import { plural } from "../shared/words";
import type { Columns } from "./columns";
import type { usePicking } from "./picking";
import { collect, type Column, type List, type Sums } from "./rows";
import type { Picked } from "./selection";

interface Props<R extends { key: string }> {
  label: string;
  list: List;
  all: readonly Column<R>[];
  columns: Columns<R>;
  groups?: readonly Choice[];
  picking: ReturnType<typeof usePicking<R>>;
  head: (Sums & { total: number }) | undefined;
  sums: (s: Sums) => string;
  acts?: (picked: Picked, done: () => void) => ReactNode;
  lead?: ReactNode;
  aside?: ReactNode;
  field: RefObject<HTMLInputElement | null>;
  choosing: boolean;
  onChoosing: (open: boolean) => void;
  onWrong: (e: unknown) => void;
}

/** Tools stand above a list: what narrows and orders it; with many rows chosen, what can be done with those. */
export function Tools<R extends { key: string }>(p: Props<R>) {
  return (
    <div
      role="group"
      aria-label={`Tools for the list ${p.label}`}
      className="flex min-h-9 flex-wrap items-center gap-2 border-y border-rule bg-band px-[18px] py-1"
    >
      {p.picking.picked.size > 1 ? <Many {...p} /> : <Usual {...p} />}
    </div>
  );
}

function Many<R extends { key: string }>({ list, columns, picking, head, acts, onWrong }: Props<R>) {
  const { picked, none, scope } = picking;
  const [copied, setCopied] = useState("");
  const copy = async () => {
    const lines = [columns.shown.map((c) => c.title)];
    for await (const { row, at } of collect<R>(list, 0, (head?.total ?? 0) - 1)) {
      if (picked.has(row.key, at)) lines.push(columns.shown.map((c) => c.text(row)));
      if (lines.length > picked.size) break;
    }
    await navigator.clipboard.writeText(lines.map((l) => l.map(tame).join("\t")).join("\n"));
    setCopied(scope + picked.size);
  };
  return (
    <>
      <b className="font-medium">{plural(picked.size, "row")} chosen</b>
      <Button kind="small" onClick={() => void copy().catch(onWrong)}>
        {copied === scope + picked.size ? "Copied" : "Copy rows"}
      </Button>
      {acts?.(picked, none)}
      <span className="flex-1" />
      <Button kind="small" hint="Esc" onClick={none}>
        Select none
      </Button>
    </>
  );
}

function Usual<R extends { key: string }>(p: Props<R>) {
  const place = usePlace();
  const { id, name, asked } = p.list;
  return (
    <>
      {p.lead}
      <Filter label={p.label} asked={asked.filter ?? ""} field={p.field} onType={p.picking.forget} />
      {p.groups ? (
        <span className="flex items-center gap-1.5 text-[12px] text-faint">
          by
          <Choose
            label="Group by"
            value={asked.group || p.groups[0]?.value || ""}
            choices={p.groups}
            onChoose={(g) => place.set({ group: g === p.groups?.[0]?.value ? "" : g })}
          />
        </span>
      ) : null}
      <span className="ml-auto flex flex-wrap items-center justify-end gap-x-2.5 text-[12px] whitespace-nowrap text-faint">
        {p.head ? p.sums(p.head) : ""}
        <ColumnMenu {...p} />
        <CsvLink id={id} name={name} asked={asked} />
        <PrintLink id={id} name={name} asked={asked} />
        {p.aside}
      </span>
    </>
  );
}

interface FilterProps {
  label: string;
  asked: string;
  field: RefObject<HTMLInputElement | null>;
  onType: () => void;
}

function Filter({ label, asked, field, onType }: FilterProps) {
  const place = usePlace();
  const [filter, setFilter] = useState(asked);
  const [before, setBefore] = useState(asked);
  if (before !== asked) {
    setBefore(asked);
    // Taken away from elsewhere; while one types, the address lags behind.
    if (asked === "") setFilter("");
  }
  return (
    <Field
      ref={field}
      type="search"
      aria-label={`Filter ${label}`}
      placeholder="Filter   /"
      value={filter}
      onChange={(e) => {
        setFilter(e.target.value);
        onType();
        place.set({ filter: e.target.value });
      }}
      onKeyDown={(e) => {
        if (e.key !== "Escape") return;
        e.preventDefault(); // which would empty the field
        e.currentTarget.blur();
      }}
      low
      className="w-[104px]"
    />
  );
}

function ColumnMenu<R extends { key: string }>({ all, columns, choosing, onChoosing }: Props<R>) {
  return (
    <DropdownMenu.Root open={choosing} onOpenChange={onChoosing}>
      <DropdownMenu.Trigger className="underline hover:text-ink" {...tip("Choose columns  o")}>
        columns
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={6}
          className="z-20 min-w-44 border border-ink bg-sheet py-1 text-ink"
        >
          {all.map((c, i) => (
            <DropdownMenu.CheckboxItem
              key={c.id}
              checked={columns.isShown(c)}
              disabled={i === 0}
              onCheckedChange={(on) => columns.show(c, on)}
              onSelect={(e) => e.preventDefault()}
              className="flex cursor-pointer items-center gap-2 px-3 py-1 outline-none data-disabled:text-faint data-highlighted:bg-seawash"
            >
              <span aria-hidden className="grid size-3.5 place-items-center border border-ink2">
                <DropdownMenu.ItemIndicator className="block size-2 bg-ink" />
              </span>
              {c.title}
            </DropdownMenu.CheckboxItem>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** tame keeps a cell in its place when it is pasted: no tabs, no line ends, and no formula. */
function tame(cell: string): string {
  const flat = cell.replace(/[\t\r\n]+/g, " ");
  return /^[=+\-@]/.test(flat) ? `'${flat}` : flat;
}
