import { useNavigate } from "react-router";

import { api } from "../api/client";
import { useAct, useProjectID, useStow } from "../api/queries";
import type { Choice, Line, Stow, StowOptions } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { Gauge, Limits, type Load } from "../shared/Gauge";
import { Asked, Button, Section, Trouble } from "../shared/parts";
import { bytes, exact, kindWord, plural } from "../shared/words";

const switches: { on: keyof Choice; use: string; name: string; what: string; gives: string }[] = [
  { on: "dormant", use: "dormant", name: "What is switched off", what: "inactive takes, disabled clips, unselected variants", gives: "old takes and switched-off parts cannot be switched on again from the crate" },
  { on: "listed", use: "listed", name: "What is listed and never placed", what: "declared in the document, used nowhere", gives: "material that was brought in and not used is not there to try" },
];

/** Sift: what travels? Leaving out is not deleting. */
export function Sift() {
  const id = useProjectID();
  const { data, error } = useStow(id);
  return <Station name="Sift" slipName="What it means" sheet={<Asked error={error} data={data} waiting="Weighing.">{(stow) => <Weighed id={id} stow={stow} />}</Asked>} slip={data ? <Lean stow={data} id={id} /> : null} />;
}

function Weighed({ id, stow: data }: { id: number; stow: Stow }) {
  const set = useAct((o: StowOptions) => api.put<Stow>(`/projects/${id}/stow`, o));
  const sum = (ls: Line[]) => ls.reduce((n, l) => n + l.bytes, 0);
  const files = (ls: Line[]) => ls.reduce((n, l) => n + l.files, 0);
  const leaves = (l: Line) => (l.use === "dormant" && data.options.leave.dormant) || (l.use === "listed" && data.options.leave.listed);
  const stay = data.weighed.filter(leaves);
  const kinds = [...new Set(data.weighed.map((l) => l.kind))];
  const loads: Load[] = [
    ...kinds.map((k) => ({ name: kindWord[k] ?? k, bytes: sum(data.weighed.filter((l) => l.kind === k && !leaves(l))) })),
    ...kinds.map((k) => ({ name: kindWord[k] ?? k, bytes: sum(stay.filter((l) => l.kind === k)), stays: true })),
  ];
  return (
    <div className="min-h-0 overflow-auto px-[18px] py-4">
      <p className="mb-3 text-[15px]">
        <b className="font-semibold">{bytes(sum(data.weighed) - sum(stay))}</b> travel{stay.length > 0 ? <>, <b className="font-semibold">{bytes(sum(stay))}</b> stay behind</> : null}: {plural(files(data.weighed), "file")} were found beside the document. Nothing is deleted here.
      </p>
      <Gauge loads={loads} limits={data.limits} />
      <Section title="What stays behind">
        {switches.map((s) => {
          const lines = data.weighed.filter((l) => l.use === s.use);
          const on = data.options.leave[s.on];
          return (
            <div key={s.on} className="grid grid-cols-[minmax(0,1fr)_110px_90px_150px] items-center gap-3 border-b border-hair py-2">
              <span>
                <b className="block font-medium">{s.name}</b>
                <span className="text-[12px] text-faint">{s.what}</span>
              </span>
              <span className="text-right font-mono text-[12px]">{plural(files(lines), "file")}</span>
              <span className="text-right font-mono text-[12px]" title={exact(sum(lines))}>
                {bytes(sum(lines))}
              </span>
              <span className="flex justify-end" role="group" aria-label={s.name}>
                {[false, true].map((leave) => (
                  <button key={String(leave)} type="button" aria-pressed={on === leave} disabled={set.isPending} onClick={() => set.mutate({ ...data.options, leave: { ...data.options.leave, [s.on]: leave } })} className={`border px-2.5 py-0.5 text-[12px] first:rounded-l-xs first:border-r-0 last:rounded-r-xs ${on === leave ? "border-ink bg-ink text-sheet" : "border-rule bg-sheet hover:border-ink"}`}>
                    {leave ? "stays" : "travels"}
                  </button>
                ))}
              </span>
            </div>
          );
        })}
      </Section>
      <Trouble error={set.error} />
      <Section title="Weighed by kind and use" aside="every file once">
        <table className="w-full">
          <thead>
            <tr className="text-left text-[11.5px] text-faint">
              <th className="py-1 font-normal">kind</th>
              <th className="font-normal">use</th>
              <th className="text-right font-normal">files</th>
              <th className="text-right font-normal">bytes</th>
              <th className="w-24 text-right font-normal" />
            </tr>
          </thead>
          <tbody>
            {data.weighed.map((l) => (
              <tr key={l.kind + l.use} className="border-t border-hair">
                <td className="py-1">{kindWord[l.kind] ?? l.kind}</td>
                <td>{l.use}</td>
                <td className="text-right font-mono text-[12px]">{l.files}</td>
                <td className="text-right font-mono text-[12px]" title={exact(l.bytes)}>
                  {bytes(l.bytes)}
                </td>
                <td className={`text-right text-[12px] ${leaves(l) ? "text-ochre" : "text-faint"}`}>{leaves(l) ? "stays" : "travels"}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Section>
    </div>
  );
  }

function Lean({ stow, id }: { stow: Stow; id: number }) {
  const go = useNavigate();
  const gives = switches.filter((s) => stow.options.leave[s.on]);
  return (
    <>
      <h2 className="text-[22px]">{gives.length === 0 ? "Everything travels" : "A lean crate"}</h2>
      <p className="mt-1">{gives.length === 0 ? "Right for an archive: it leaves nothing out that was found." : "Right for a handoff. What it gives up:"}</p>
      <ul className="mt-1">
        {gives.map((g) => (
          <li key={g.on} className="py-0.5 text-ochre">
            {g.gives}
          </li>
        ))}
      </ul>
      <Section title="Which carriers it fits">
        <Limits limits={stow.limits} />
      </Section>
      <Section title="Not in the crate" aside={String(stow.left.length)}>
        <ul>
          {stow.left.map((l) => (
            <li key={l.path + l.why} className="py-1" title={l.path}>
              <span className="block truncate font-mono text-[12px]">{l.path.split("/").at(-1)}</span>
              <span className="block text-[12px] text-faint">{l.why}</span>
            </li>
          ))}
          {stow.left.length === 0 ? <li className="text-faint">Nothing is left out.</li> : null}
        </ul>
      </Section>
      <Acts>
        <Button kind="first" onClick={() => void go(`/p/${id}/stow`)}>
          Lay it out
        </Button>
      </Acts>
    </>
  );
}
