import type { LeftRow } from "../api/types";
import { Ledger, type Column } from "../ledger/Ledger";
import { Path } from "../shared/kit";
import { Empty } from "../shared/parts";
import { usePlace } from "../shared/place";
import { plural } from "../shared/words";

/** LeftOut is every file that does not go into the crate, with the reason. */
export function LeftOut({ id }: { id: number }) {
  const place = usePlace();
  return (
    <Ledger<LeftRow>
      id={id}
      name="left"
      label="Files left out"
      columns={columns}
      groups={groups}
      selected={place.get("sel")}
      onSelect={(sel) => place.set({ sel })}
      onNone={() => place.set({ sel: "" })}
      sums={(s) => `${plural(s.files, "file")} left out`}
      empty={<Empty title="Nothing is left out">Every file that the documents use is in the crate.</Empty>}
    />
  );
}

const groups = [
  { value: "none", word: "one list" },
  { value: "why", word: "reason" },
];

const columns: Column<LeftRow>[] = [
  { id: "name", title: "file", width: "minmax(0,1fr)", text: (r) => r.name },
  {
    id: "place",
    title: "folder",
    width: "minmax(0,1fr)",
    text: (r) => r.label,
    cell: (r) => <Path faint>{r.label}</Path>,
  },
  { id: "why", title: "reason", width: "minmax(0,1.6fr)", text: (r) => r.why },
];
