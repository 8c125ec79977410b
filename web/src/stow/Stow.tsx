import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";

import { api } from "../api/client";
import { useAct, useAppState, useProjectID, useStow } from "../api/queries";
import type { Berth, Berths, Stow as StowData, StowOptions, Wish } from "../api/types";
import { useWindow } from "../api/window";
import { Acts, Station } from "../frame/Station";
import { Gauge, Limits } from "../shared/Gauge";
import { Asked, Badge, Button, Chip, Empty, Section, Trouble } from "../shared/parts";
import { bytes, exact, plural } from "../shared/words";

const grid = "grid grid-cols-[minmax(0,1.15fr)_minmax(0,.8fr)_minmax(0,1.25fr)_74px_84px] items-center gap-2 px-[18px]";

/** Stow: where does each thing go, under which name? */
export function Stow() {
  const id = useProjectID();
  const { data, error } = useStow(id);
  return <Station name="Stow" slipName="The crate as it will be" sheet={<Asked error={error} data={data} waiting="Laying it out.">{(stow) => <Plan id={id} stow={stow} />}</Asked>} slip={data ? <Sum id={id} stow={data} /> : null} />;
}

function Plan({ id, stow }: { id: number; stow: StowData }) {
  const set = useAct((o: StowOptions) => api.put<StowData>(`/projects/${id}/stow`, o));
  return (
    <>
      <div className="px-[18px] pt-3 pb-3">
        <p className="mb-2 text-[15px]">
          <b className="font-semibold">{plural(stow.files, "file")}</b>, <b className="font-semibold">{bytes(stow.bytes)}</b>.{" "}
          {stow.clashes > 0 ? (
            <b className="font-semibold text-ochre">
              {plural(stow.clashes, "name")} would have clashed and {stow.clashes === 1 ? "was" : "were"} renamed.
            </b>
          ) : (
            "No names clash."
          )}{" "}
          {stow.absent > 0 ? `${stow.absent} ${stow.absent === 1 ? "place is" : "places are"} kept for what is not there.` : ""}
        </p>
        <Gauge loads={stow.kinds.map((k) => ({ name: k.key, bytes: k.bytes }))} limits={stow.limits} />
        {stow.problems.map((p, i) => (
          <p key={i} className="mt-2 border-l-[3px] border-rust pl-2">
            <b className="font-medium">{p.path.split("/").at(-1)}</b> {p.message}. {p.do}
          </p>
        ))}
      </div>
      <Table id={id} options={stow.options} onOptions={(o) => set.mutate(o)} />
      <Trouble error={set.error} />
    </>
  );
}

const filters = [
  ["", "all"],
  ["clash", "clashes"],
  ["renamed", "renamed"],
  ["absent", "not there"],
] as const;

function Table({ id, options, onOptions }: { id: number; options: StowOptions; onOptions: (o: StowOptions) => void }) {
  const [place, setPlace] = useSearchParams();
  const asked = { only: place.get("only") ?? "", filter: place.get("filter") ?? "" };
  const set = (k: string, v: string) =>
    setPlace(
      (old) => {
        if (v) old.set(k, v);
        else old.delete(k);
        return old;
      },
      { replace: true },
    );
  const { scroller, list, items, rowAt, total, head, error } = useWindow<Berths, Berth>(["project", id, "berths", asked], (offset, limit) => api.get<Berths>(`/projects/${id}/berths`, { ...asked, offset, limit }), (p) => p.berths, 28);
  const wish = useAct((x: Wish) => api.put(`/projects/${id}/berths`, x));
  return (
    <>
      <div className="flex flex-wrap items-center gap-2 border-y border-rule bg-band px-[18px] py-1.5">
        <span className="text-[12px] text-faint">layout</span>
        <Chip on={options.layout === "kind"} onClick={() => onOptions({ ...options, layout: "kind" })}>
          by kind
        </Chip>
        <Chip on={options.layout === "stands"} onClick={() => onOptions({ ...options, layout: "stands" })}>
          as the folders stand
        </Chip>
        <Chip on={!options.anyNames} onClick={() => onOptions({ ...options, anyNames: !options.anyNames })}>
          names every system takes
        </Chip>
        <span className="mx-1 h-4 border-l border-rule" />
        {filters.map(([only, word]) => (
          <Chip key={only} on={asked.only === only} onClick={() => set("only", only)}>
            {word}
          </Chip>
        ))}
        <input type="search" aria-label="Filter the crate's files" placeholder="Filter" defaultValue={asked.filter} onChange={(e) => set("filter", e.target.value)} className="ml-auto w-32 rounded-xs border border-rule bg-field px-2 py-0.5 text-ink" />
      </div>
      <div className={`${grid} h-6 overflow-hidden border-b border-rule text-[11.5px] text-faint [scrollbar-gutter:stable]`}>
        <span>comes from</span>
        <span>folder in the crate</span>
        <span>name in the crate</span>
        <span>kind</span>
        <span className="text-right">size</span>
      </div>
      <Trouble error={error ?? wish.error} />
      <div ref={scroller} className="min-h-0 flex-1 overflow-auto [scrollbar-gutter:stable]" role="group" aria-label="Berths">
        {head && total === 0 ? <Empty title="Nothing of that sort">Choose “all” to see every berth.</Empty> : null}
        <div className="relative" style={{ height: list.getTotalSize() }}>
          {items.map((v) => {
            const b = rowAt(v.index);
            return (
              <div key={v.key} className="absolute inset-x-0" style={{ transform: `translateY(${v.start}px)`, height: v.size }}>
                {b ? <Line key={b.key + b.folder + b.name} berth={b} onWish={(x) => wish.mutate({ folder: null, name: null, reset: false, ...x, key: b.key })} /> : null}
              </div>
            );
          })}
        </div>
      </div>
    </>
  );
}

function Line({ berth, onWish }: { berth: Berth; onWish: (w: { folder?: string; name?: string; reset?: boolean }) => void }) {
  return (
    <div className={`${grid} h-7 border-b border-hair ${berth.absent ? "text-faint" : ""} ${berth.clashed ? "bg-ochrewash" : "hover:bg-band"}`}>
      <span className="truncate" title={`${berth.from}/${berth.was}`}>
        {berth.was} <span className="font-mono text-[11.5px] text-faint">{berth.from.split("/").slice(-2).join("/")}</span>
      </span>
      <Cell label={`Folder of ${berth.was}`} value={berth.folder} empty="top" onChange={(folder) => onWish({ folder })} />
      <span className="flex min-w-0 items-center gap-1.5">
        {berth.sequence ? (
          <span className="truncate px-1.5 font-medium">{berth.name}</span>
        ) : (
          <Cell label={`Name of ${berth.was}`} value={berth.name} strong onChange={(name) => onWish({ name })} />
        )}
        {berth.absent ? <Badge>{berth.why}</Badge> : berth.clashed ? <Badge>clash</Badge> : berth.renamed && !berth.wished ? <Badge tone="sea">renamed</Badge> : null}
        {berth.wished ? (
          <Button kind="small" className="py-0!" onClick={() => onWish({ reset: true })} title="Forget your wish for this file">
            reset
          </Button>
        ) : null}
      </span>
      <span className="truncate text-[12px] text-ink2">{berth.kind}</span>
      <span className="text-right font-mono text-[12px] whitespace-nowrap" title={berth.sequence ? `${berth.files} files, ${exact(berth.size)}` : exact(berth.size)}>
        {berth.absent ? "—" : bytes(berth.size)}
      </span>
    </div>
  );
}

/** Cell is text that can be typed over; Enter or leaving it keeps, Escape does not. */
function Cell({ label, value, empty = "", strong, onChange }: { label: string; value: string; empty?: string; strong?: boolean; onChange: (v: string) => void }) {
  const [text, setText] = useState(value);
  return (
    <input
      aria-label={label}
      value={text}
      placeholder={empty}
      title={text}
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
      className={`w-full min-w-0 truncate border border-transparent bg-transparent px-1.5 py-0.5 hover:border-rule focus:border-sea focus:bg-field ${strong ? "font-medium" : "font-mono text-[12px]"}`}
    />
  );
}

function Sum({ id, stow }: { id: number; stow: StowData }) {
  const go = useNavigate();
  const { data: state } = useAppState();
  return (
    <>
      <h2 className="text-[22px]">The crate as it will be</h2>
      <Section title="Folders" aside={plural(stow.files, "file")}>
        <ul>
          {stow.folders.map((f) => (
            <li key={f.key} className="flex items-baseline gap-2 py-0.5" style={{ paddingLeft: f.key === "" ? 0 : 12 * f.key.split("/").length }}>
              <span className="min-w-0 flex-1 truncate font-mono text-[12px]" title={f.key}>
                {f.key === "" ? "data" : f.key.split("/").at(-1)}/
              </span>
              <span className="font-mono text-[12px]">{f.files}</span>
              <span className="w-18 text-right font-mono text-[12px] text-faint">{bytes(f.bytes)}</span>
            </li>
          ))}
        </ul>
      </Section>
      <Section title="Files of each kind">
        <ul>
          {stow.kinds.map((k) => (
            <li key={k.key} className="flex items-baseline gap-2 py-0.5">
              <span className="flex-1">{k.key}</span>
              <span className="font-mono text-[12px]">{k.files}</span>
              <span className="w-18 text-right font-mono text-[12px] text-faint">{bytes(k.bytes)}</span>
            </li>
          ))}
        </ul>
      </Section>
      <Section title="Which carriers it fits">
        <Limits limits={stow.limits} />
      </Section>
      <Section title="Room on your drives">
        <ul>
          {(state?.drives ?? []).map((d) => (
            <li key={d.id} className="grid grid-cols-[110px_1fr_64px] items-baseline gap-2 py-0.5" title={exact(d.free)}>
              <span>{d.name}</span>
              <span className="text-[12px] text-faint">{d.connected ? `${bytes(d.free)} free` : "not connected"}</span>
              <b className={`text-right font-medium ${d.free >= stow.bytes ? "text-moss" : "text-rust"}`}>{d.connected ? (d.free >= stow.bytes ? "fits" : "too little") : ""}</b>
            </li>
          ))}
        </ul>
      </Section>
      <Acts>
        <Button kind="first" onClick={() => void go(`/p/${id}/seal`)}>
          Go on to seal it
        </Button>
      </Acts>
    </>
  );
}
