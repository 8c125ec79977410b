import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { useMend, useProjectID, useWanted } from "../api/queries";
import type { Mend as MendData, WantedRow } from "../api/types";
import { Station } from "../frame/Station";
import { Ledger, useAsked, type Column } from "../ledger/Ledger";
import { askStretch } from "../ledger/rows";
import type { Selection } from "../ledger/selection";
import { Mark } from "../shared/Mark";
import { Path } from "../shared/kit";
import { Asked, Badge, Button, Empty, Waiting } from "../shared/parts";
import { usePlace } from "../shared/place";
import { tip } from "../shared/Tip";
import { plural, count } from "../shared/words";
import { Accept } from "./Accept";
import { SetAsides } from "./Aside";
import { Certainty } from "./Certainty";
import { Evidence } from "./Evidence";
import { Groups } from "./Groups";
import { LookHere } from "./LookHere";
import { Repairs } from "./Repairs";

/** Mend: find it again. Nothing on disk changes here until it is asked for. */
export function Mend() {
  const id = useProjectID();
  const { data, error } = useMend(id);
  return (
    <Asked error={error} data={data} waiting="Loading missing files.">
      {(mend) => <Desk id={id} mend={mend} />}
    </Asked>
  );
}

function Desk({ id, mend }: { id: number; mend: MendData }) {
  const place = usePlace();
  const sel = place.get("sel");
  const shown = mend.searched > 0 ? columns : before;
  const list = { id, name: "wanted", asked: useAsked({ columns: shown, groups }) };
  // Where nothing is chosen, or what was chosen is mended, the first one is.
  const { data: whole } = useQuery(askStretch(list));
  const chosen = useWanted(id, sel);
  const fallback = useWanted(id, sel === "" || chosen.data?.row === null ? (whole?.head ?? "") : "");
  const wanted = chosen.data?.row ? chosen.data : fallback.data;
  const row = wanted?.row;
  const select = (key: string) => place.set({ sel: key });
  const key = row?.key ?? "";
  const { data: around } = useQuery({ ...askStretch(list, { from: key, to: key }), enabled: key !== "", retry: false });
  const [taking, setTaking] = useState<Selection | null>(null);
  const next = () => select(around?.after || around?.before || "");
  const sheet = (
    <>
      <LookHere key={mend.folders.join()} id={id} mend={mend} />
      <Groups id={id} groups={mend.groups} />
      {mend.missing === 0 ? (
        <div className="min-h-0 flex-1">
          <Empty title="Nothing is missing">
            {mend.repairs.length > 0
              ? "The repairs below are enough for a crate. To update the documents themselves, write the repairs into them."
              : "Every file is at its path, or on a drive that is not connected."}
          </Empty>
        </div>
      ) : (
        <Ledger<WantedRow>
          id={id}
          name="wanted"
          label="Missing files"
          columns={shown}
          groups={groups}
          selected={row?.key ?? ""}
          onSelect={select}
          sums={(s) => `${plural(s.rows, "file")} missing · ${plural(s.references, "reference")}`}
          mark={mark}
          height={44}
          empty={null}
          keys={(_, chosen) => ({ y: chosen.size > 0 ? () => setTaking(chosen.said) : undefined })}
          acts={({ said }) => (
            <Button kind="small" hint="y" onClick={() => setTaking(said)}>
              Relink…
            </Button>
          )}
        />
      )}
      <Accept id={id} said={taking} onClose={() => setTaking(null)} />
      <SetAsides id={id} aside={mend.aside} />
      <Repairs id={id} mend={mend} />
    </>
  );
  let slip = <Mended mend={mend} />;
  if (wanted && row && mend.missing > 0)
    slip = <Evidence key={row.key} row={row} id={id} wanted={wanted} snapshot={mend.snapshot} onDone={next} />;
  else if (mend.missing > 0) slip = <Waiting what="Loading." />;
  return <Station name="Mend" slipName="Evidence" sheet={sheet} slip={slip} />;
}

const groups = [
  { value: "none", word: "one list" },
  { value: "certainty", word: "certainty" },
  { value: "place", word: "place" },
  { value: "kind", word: "kind" },
];

const best = (w: WantedRow) => (w.best ? `${w.best} (${w.certainty})` : "");

const columns: Column<WantedRow>[] = [
  {
    id: "name",
    title: "missing file",
    width: "minmax(0,1fr)",
    text: (w) => w.name,
    cell: (w) => (
      <>
        <span className="flex items-center gap-2">
          <span className="truncate font-medium" {...tip(w.name)}>
            {w.name}
          </span>
          {w.gaps ? <Badge>lacks {w.gaps}</Badge> : null}
          {w.suspect.length > 0 ? <Badge tone="rust">suspect</Badge> : null}
          {w.use === "used" ? null : <Badge>{w.use}</Badge>}
        </span>
        <Path faint>{w.label}</Path>
      </>
    ),
  },
  {
    id: "best",
    title: "best candidate",
    width: "minmax(0,1.1fr)",
    text: best,
    cell: (w) =>
      w.best ? (
        <>
          <span className="flex items-center gap-2">
            <span className="truncate font-medium" {...tip(w.best)}>
              {w.best}
            </span>
            <Certainty of={w.certainty} />
            {w.candidates > 1 ? (
              <span className="text-[12px] whitespace-nowrap text-faint">and {w.candidates - 1} more</span>
            ) : null}
          </span>
          <Path faint>{w.bestLabel}</Path>
        </>
      ) : (
        <span className="text-faint">{w.looked ? "no candidates" : "not searched yet"}</span>
      ),
  },
  { id: "kind", title: "kind", width: "64px", text: (w) => w.word },
  { id: "place", title: "expected in", width: "minmax(0,1fr)", extra: true, text: (w) => w.label },
  { id: "use", title: "use", width: "64px", extra: true, text: (w) => w.use },
  { id: "certainty", title: "certainty", width: "72px", extra: true, text: (w) => w.certainty || "no candidates" },
  { id: "uses", title: "uses", width: "46px", right: true, text: (w) => count(w.uses) },
];

const notYet: Column<WantedRow> = {
  id: "best",
  title: "best candidate",
  width: "minmax(0,1.1fr)",
  text: () => "",
  cell: () => <span className="text-faint">not searched yet</span>,
};

const before = columns.map((c) => (c.id === "best" ? notYet : c));
const mark = (w: WantedRow | null) => (w ? <Mark state={w.gaps ? "missing" : w.state} /> : null);

function Mended({ mend }: { mend: MendData }) {
  return (
    <>
      <h2 className="text-[22px]">
        {mend.repairs.length > 0 ? `${plural(mend.allRepairs, "repair")} in place` : "No repairs"}
      </h2>
      <p className="mt-1 text-ink2">Continue to Sift to decide what travels.</p>
    </>
  );
}
