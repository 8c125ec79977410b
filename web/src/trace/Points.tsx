import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import { tries } from "../api/client";
import { useAct, useProjectID, useSummary } from "../api/queries";
import type { Aimed, PointRow, Points as Answer, SetPoints } from "../api/types";
import { LastWritten } from "../frame/LastWritten";
import { Acts, Station } from "../frame/Station";
import { useChosen } from "../shared/chosen";
import { Choose } from "../shared/Choose";
import { CsvLink, PrintLink } from "../shared/Csv";
import { FolderPicker } from "../shared/FolderPicker";
import { LinesSheet } from "../shared/LinesSheet";
import { Check, TextLink } from "../shared/kit";
import { OrderFilter, OrderHead, ordered, useOrder, type By, type Order } from "../shared/Order";
import { Asked, Button, Empty, Section, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural } from "../shared/words";

const leadsOut = (p: PointRow) => p.flags.includes("outside");

/** Points: where will each track and output write next? */
export function Points() {
  const id = useProjectID();
  const { data: summary } = useSummary(id);
  const { data, error } = useQuery(acts.points(id));
  return (
    <Asked error={error} data={data} waiting="Loading write points.">
      {(d) => <Chosen id={id} data={d} last={<LastWritten id={id} summary={summary} />} />}
    </Asked>
  );
}

function Chosen({ id, data, last }: { id: number; data: Answer; last: React.ReactNode }) {
  const order = useOrder();
  const out = data.list.filter(leadsOut);
  const can = data.list.filter((p) => !p.fixed);
  const chosen = useChosen(can, leadsOut);
  const picked = can.filter(chosen.has);
  const [to, setTo] = useState<"root" | "folder">("root");
  const [folder, setFolder] = useState({ path: "", label: "" });
  const [asked, setAsked] = useState<{ what: SetPoints; lines: Aimed } | null>(null);
  const lines = asked?.lines;
  const ask = (): SetPoints => ({
    snapshot: data.snapshot,
    points: picked.map((p) => p.nr),
    folder: to === "root" ? "" : folder.path,
    try: true,
  });
  const look = useAct(
    (what: SetPoints) => tries(acts.setPoints(id, what)),
    (lines, what) => setAsked({ what, lines }),
  );
  const write = useAct(
    (r: SetPoints) => acts.setPoints(id, r),
    () => setAsked(null),
  );
  const where = to === "root" ? data.rootName : folder.label || "no folder chosen";
  return (
    <Station
      name="Write points"
      slipName="New folder"
      sheet={
        data.list.length === 0 ? (
          <Empty title="No write points">
            No document says where new material will be recorded or rendered.{" "}
            <TextLink to="../trace">Back to the trace</TextLink>
          </Empty>
        ) : (
          <>
            <div className="px-[18px] pt-3 pb-2 text-[15px]">
              {out.length > 0 ? (
                <p>
                  <b className="font-semibold text-ochre">
                    {out.length} of {plural(data.list.length, "write point")}
                  </b>{" "}
                  {out.length === 1 ? "leads" : "lead"} out of the project. New recordings and renders go there, also
                  from a copy of the project.
                </p>
              ) : (
                <p>
                  <b className="font-semibold text-moss">
                    {data.list.length === 1 ? "The only write point is" : "All write points are"} in the project.
                  </b>
                </p>
              )}
              <span className="flex items-center gap-2.5 text-[12px] text-faint">
                <OrderFilter order={order} label="Filter write points" />
                <CsvLink id={id} name="points" /> <PrintLink id={id} name="points" />
              </span>
            </div>
            <Table list={data.list} chosen={chosen} order={order} />
          </>
        )
      }
      slip={
        <>
          <h2 className="text-[22px]">Write points</h2>
          <p className="mb-2 text-ink2">{plural(picked.length, "write point")} selected.</p>
          <div className="flex flex-wrap gap-2">
            <Button kind="small" onClick={() => chosen.only(() => true)}>
              Select all
            </Button>
            <Button kind="small" onClick={() => chosen.only(leadsOut)}>
              Select those that lead out
            </Button>
            <Button kind="small" onClick={() => chosen.only(() => false)}>
              None
            </Button>
          </div>
          <Section title="Write to">
            <Choose
              label="New folder"
              value={to}
              onChoose={(v) => setTo(v as "root" | "folder")}
              choices={[
                { value: "root", word: "project folder" },
                { value: "folder", word: "another folder" },
              ]}
            />
            {to === "folder" ? (
              <div className="mt-2">
                <FolderPicker makes start={data.root} onFolder={(path, label) => setFolder({ path, label })} />
              </div>
            ) : null}
          </Section>
          <Trouble error={look.error} />
          <Acts>
            {last}
            <p className="truncate font-mono text-[12px] text-faint" {...tip(where)}>
              {where}
            </p>
            <Button
              kind="first"
              disabled={picked.length === 0 || look.isPending || (to === "folder" && folder.path === "")}
              onClick={() => look.mutate(ask())}
            >
              Set {plural(picked.length, "write point")}
            </Button>
          </Acts>
          <LinesSheet
            open={asked !== null}
            title={
              lines?.lines.length === 0 ? "Nothing to write" : `Change ${plural(lines?.lines.length ?? 0, "line")}?`
            }
            says={
              lines?.lines.length === 0
                ? "The selected write points already lead there."
                : "Only these lines change. An edition of each document is kept first."
            }
            lines={lines?.lines ?? []}
            busy={write.isPending}
            onClose={() => setAsked(null)}
            onWrite={() => asked && write.mutate({ ...asked.what, try: false })}
          >
            {lines?.problems.map((p, i) => (
              <p key={i} className="text-rust">
                {p.path.split("/").at(-1)} {p.message}. {p.do}
              </p>
            ))}
            <Trouble error={write.error} />
          </LinesSheet>
        </>
      }
    />
  );
}

type Choice = ReturnType<typeof useChosen<PointRow>>;

const by: By<PointRow> = { owner: (p) => p.owner, label: (p) => p.label };

function Table({ list, chosen, order }: { list: readonly PointRow[]; chosen: Choice; order: Order }) {
  const shown = ordered(list, order, by, (p) => `${p.owner} ${p.document} ${p.label} ${p.written}`);
  return (
    <>
      <div className="grid grid-cols-[34px_minmax(0,1fr)_110px_minmax(0,1.3fr)] border-y border-rule bg-band px-[18px] py-1 text-[12px] text-faint">
        <span />
        <OrderHead order={order} by="owner" word="track or output" />
        <span className="text-center">project folder boundary</span>
        <span className="pl-3">
          <OrderHead order={order} by="label" word="writes to" />
        </span>
      </div>
      <ul className="min-h-0 flex-1 overflow-auto" aria-label="Write points">
        {shown.length === 0 ? <li className="px-[18px] py-3 text-faint">No write points match the filter.</li> : null}
        {shown.map((p) => (
          <li
            key={p.nr}
            className="grid grid-cols-[34px_minmax(0,1fr)_110px_minmax(0,1.3fr)] items-stretch border-b border-hair px-[18px]"
          >
            <span className="self-center">
              <Check
                aria-label={`${p.owner} in ${p.document}`}
                disabled={p.fixed !== ""}
                checked={!p.fixed && chosen.has(p)}
                onChange={() => chosen.toggle(p)}
              />
            </span>
            <span className="min-w-0 py-1.5">
              <span className="block truncate font-medium">{p.owner}</span>
              <span className="block truncate text-[12px] text-faint" {...tip(p.document)}>
                {p.document}
              </span>
            </span>
            <Arrow out={leadsOut(p)} />
            <span className="min-w-0 py-1.5 pl-3">
              <span
                className={`block truncate font-mono text-[12px] ${leadsOut(p) ? "text-ochre" : ""}`}
                {...tip(`${p.label}\nas written: ${p.written}`)}
              >
                {p.label}
              </span>
              <span className="block text-[12px] text-faint">{p.fixed || p.says}</span>
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}

/** Arrow goes through the project's wall, or ends before it. */
function Arrow({ out }: { out: boolean }) {
  return (
    <svg viewBox="0 0 110 44" className="h-full w-full" preserveAspectRatio="none" aria-hidden>
      <line x1="55" x2="55" y1="0" y2="44" className="stroke-rule" strokeWidth="3" />
      <g className={out ? "stroke-ochre" : "stroke-moss"} strokeWidth="2" fill="none">
        <line x1="2" x2={out ? 104 : 40} y1="22" y2="22" />
        <path d={out ? "M96 16l8 6l-8 6" : "M32 16l8 6l-8 6"} />
      </g>
    </svg>
  );
}
