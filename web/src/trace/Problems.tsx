import { useQuery } from "@tanstack/react-query";

import type { ProblemRow } from "../api/types";
import { Ledger, type Column } from "../ledger/Ledger";
import { askLines } from "../ledger/rows";
import { Path } from "../shared/kit";
import { Section, Waiting } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural } from "../shared/words";
import type { ListProps } from "./Files";

const columns: Column<ProblemRow>[] = [
  {
    id: "name",
    title: "file",
    width: "minmax(0,0.8fr)",
    text: (p) => p.name,
    cell: (p) => (
      <>
        <span className="block truncate font-medium" {...tip(p.name)}>
          {p.name}
          {p.line > 0 ? <span className="font-normal text-faint">, line {p.line}</span> : null}
        </span>
        <Path faint>{p.folder}</Path>
      </>
    ),
  },
  {
    id: "message",
    title: "problem",
    width: "minmax(0,1.2fr)",
    text: (p) => p.message,
    cell: (p) => (
      <>
        <span className="block truncate" {...tip(p.message)}>
          {p.message}
        </span>
        <span className="block truncate text-[12px] text-faint" {...tip(p.do)}>
          {p.do}
        </span>
      </>
    ),
  },
  { id: "document", title: "used by", width: "minmax(0,0.8fr)", extra: true, text: (p) => p.document },
  { id: "kind", title: "kind", width: "minmax(0,0.6fr)", extra: true, text: (p) => p.kind },
];

const groups = [
  { value: "kind", word: "kind" },
  { value: "none", word: "one list" },
];

/** Problems is the ledger of everything that is wrong with what was read. */
export function Problems(p: ListProps) {
  return (
    <Ledger<ProblemRow>
      {...p}
      name="problems"
      label="Problems"
      columns={columns}
      groups={groups}
      height={44}
      sums={(s) => plural(s.rows, "problem")}
      empty={null}
    />
  );
}

/** ProblemSlip is everything about the selected problem. */
export function ProblemSlip({ id, at }: { id: number; at: string }) {
  const list = { id, name: "problems", asked: { group: "none" } };
  const { data } = useQuery({ ...askLines<ProblemRow>(list, Number(at), 1), enabled: at !== "" });
  const row = data?.lines[0]?.row;
  if (!row)
    return at === "" ? <p className="text-ink2">Select a problem to see its details.</p> : <Waiting what="Loading." />;
  return (
    <>
      <h2 className="text-[22px] leading-tight break-words">{row.name}</h2>
      <p className="mt-1 font-mono text-[12px] break-words text-faint">{row.folder}</p>
      <Section title="Problem" aside={row.line > 0 ? `line ${row.line}` : ""}>
        <p className="break-words first-letter:uppercase">{row.message}.</p>
      </Section>
      {row.untouched ? (
        <Section title="Effect">
          <p className="break-words">{row.untouched}</p>
        </Section>
      ) : null}
      {row.do ? (
        <Section title="What to do">
          <p className="break-words">{row.do}</p>
        </Section>
      ) : null}
      {row.document ? (
        <Section title="Used by">
          <p className="font-mono text-[12px] break-words">{row.document}</p>
        </Section>
      ) : null}
    </>
  );
}
