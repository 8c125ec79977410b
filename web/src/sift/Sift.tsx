import { useNavigate } from "react-router";

import { api } from "../api/client";
import { useAct, useProjectID, useStow } from "../api/queries";
import type { Stow, StowOptions, Weighed } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { Choose } from "../shared/Choose";
import { Gauge, Limits, type Load } from "../shared/Gauge";
import { Asked, Button, Section, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { bytes, exact, plural } from "../shared/words";

interface Switch {
  on: "dormant" | "listed" | "library" | "store";
  of: (l: Weighed) => boolean;
  name: string;
  what: string;
  /** shown only where there is any of it */
  rare?: boolean;
}

const switches: Switch[] = [
  {
    on: "dormant",
    of: (l) => l.use === "dormant",
    name: "What is switched off",
    what: "inactive takes, disabled clips, unselected variants",
  },
  {
    on: "listed",
    of: (l) => l.use === "listed",
    name: "What is listed and never placed",
    what: "declared in the document, used nowhere",
  },
  {
    on: "library",
    of: (l) => l.origin === "library",
    name: "What comes from a library",
    what: "in a folder you called a library: whoever receives it may have the same",
    rare: true,
  },
  {
    on: "store",
    of: (l) => l.origin === "store",
    name: "What a managed store keeps",
    what: "in a folder you called a store",
    rare: true,
  },
];

/** What a lean crate gives up, and what every crate does. */
const gives: Record<Stow["givesUp"][number], string> = {
  "dormant-takes": "old takes and switched-off parts cannot be switched on again from the crate",
  "listed-files": "material that was brought in and not used is not there to try",
  "earlier-documents": "earlier documents of the project stay behind",
  strays: "files in the project folder that nothing names stay behind",
  undo: "the undo history inside a document does not reach into the crate",
};

const sum = (ls: Weighed[]) => ls.reduce((n, l) => n + l.bytes, 0);
const files = (ls: Weighed[]) => ls.reduce((n, l) => n + l.files, 0);

/** Sift: what travels? Leaving out is not deleting. */
export function Sift() {
  const id = useProjectID();
  const { data, error } = useStow(id);
  return (
    <Station
      name="Sift"
      slipName="What it means"
      sheet={
        <Asked error={error} data={data} waiting="Weighing.">
          {(stow) => <Scale id={id} stow={stow} />}
        </Asked>
      }
      slip={data ? <Lean stow={data} id={id} /> : null}
    />
  );
}

function Scale({ id, stow }: { id: number; stow: Stow }) {
  const set = useAct((o: StowOptions) => api.put<Stow>(`/projects/${id}/stow`, o));
  const stay = stow.weighed.filter((l) => !l.travels);
  const kinds = [...new Map(stow.weighed.map((l) => [l.kind, l.word]))];
  const of = (kind: string, travels: boolean) =>
    sum(stow.weighed.filter((l) => l.kind === kind && l.travels === travels));
  const loads: Load[] = [
    ...kinds.map(([kind, name]) => ({ kind, name, bytes: of(kind, true) })),
    ...kinds.map(([kind, name]) => ({ kind, name, bytes: of(kind, false), stays: true })),
  ];
  const passed = stow.passes.slice(1).reduce((a, b) => a + b, 0);
  return (
    <div className="min-h-0 overflow-auto px-[18px] py-4" tabIndex={0} role="group" aria-label="Weighed">
      <p className="mb-3 text-[15px]">
        <b className="font-semibold">{bytes(sum(stow.weighed) - sum(stay))}</b> travel
        {stay.length > 0 ? (
          <>
            , <b className="font-semibold">{bytes(sum(stay))}</b> stay behind
          </>
        ) : null}
        : {plural(files(stow.weighed), "file was", "files were")} found beside the documents. Nothing is deleted here.
      </p>
      <Gauge loads={loads} limits={stow.limits} />
      <Section title="What stays behind">
        {switches.map((s) => {
          const lines = stow.weighed.filter(s.of);
          if (s.rare && lines.length === 0) return null;
          return (
            <div
              key={s.on}
              className="grid grid-cols-[minmax(0,1fr)_110px_90px_150px] items-center gap-3 border-b border-hair py-2"
            >
              <span>
                <b className="block font-medium">{s.name}</b>
                <span className="text-[12px] text-faint">{s.what}</span>
              </span>
              <span className="text-right font-mono text-[12px]">{plural(files(lines), "file")}</span>
              <span className="text-right font-mono text-[12px]" {...tip(exact(sum(lines)))}>
                {bytes(sum(lines))}
              </span>
              <span className="flex justify-end">
                <Choose
                  label={s.name}
                  value={stow.options.leave[s.on] ? "stays" : "travels"}
                  disabled={set.isPending}
                  onChoose={(v) =>
                    set.mutate({ ...stow.options, leave: { ...stow.options.leave, [s.on]: v === "stays" } })
                  }
                  choices={[
                    { value: "travels", word: "travels" },
                    { value: "stays", word: "stays" },
                  ]}
                />
              </span>
            </div>
          );
        })}
        {passed > 0 ? (
          <p className="mt-2 text-[12px] text-ink2">
            With them {plural(passed, "more file stays", "more files stay")}: nothing else that travels names{" "}
            {passed === 1 ? "it" : "them"}.
          </p>
        ) : null}
      </Section>
      <Trouble error={set.error} />
      <Section title="Weighed by kind and use" aside="every file once">
        <table className="w-full">
          <thead>
            <tr className="text-left text-[11.5px] text-faint">
              <th scope="col" className="py-1 font-normal">
                kind
              </th>
              <th scope="col" className="font-normal">
                use
              </th>
              <th scope="col" className="font-normal">
                from
              </th>
              <th scope="col" className="text-right font-normal">
                files
              </th>
              <th scope="col" className="text-right font-normal">
                bytes
              </th>
              <th scope="col" className="w-24 text-right font-normal">
                <span className="sr-only">travels or stays</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {stow.weighed.map((l) => (
              <tr key={l.kind + l.use + l.class + l.origin + String(l.travels)} className="border-t border-hair">
                <td className="py-1">{l.word}</td>
                <td>{l.use}</td>
                <td className="text-ink2">{origins[l.origin]}</td>
                <td className="text-right font-mono text-[12px]">{l.files.toLocaleString("en-GB")}</td>
                <td className="text-right font-mono text-[12px]" {...tip(exact(l.bytes))}>
                  {bytes(l.bytes)}
                </td>
                <td className={`text-right text-[12px] ${l.travels ? "text-faint" : "text-ochre"}`}>
                  {l.travels ? "travels" : "stays"}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Section>
    </div>
  );
}

const origins: Record<Weighed["origin"], string> = {
  project: "the project folder",
  "other-project": "another project",
  library: "a library",
  store: "a managed store",
  dump: "a dumping ground",
  loose: "elsewhere",
  none: "nowhere",
};

function Lean({ stow, id }: { stow: Stow; id: number }) {
  const go = useNavigate();
  const stays = stow.weighed.some((l) => !l.travels);
  return (
    <>
      <h2 className="text-[22px]">{stays ? "A lean crate" : "All that is used travels"}</h2>
      <p className="mt-1">
        {stays
          ? "Right for a handoff. What it gives up:"
          : "Everything the documents name goes along, also what is switched off. What no crate takes along:"}
      </p>
      <ul className="mt-1">
        {stow.givesUp.map((g) => (
          <li key={g} className="py-0.5 text-ochre">
            {gives[g]}
          </li>
        ))}
        {stow.givesUp.length === 0 ? <li className="py-0.5 text-faint">nothing that was found</li> : null}
      </ul>
      <Section title="Which carriers it fits">
        <Limits limits={stow.limits} />
      </Section>
      <Section title="Not in the crate" aside={stow.left.length.toLocaleString("en-GB")}>
        <ul>
          {stow.left.slice(0, 100).map((l) => (
            <li key={l.path + l.why} className="py-1" {...tip(l.path)}>
              <span className="block truncate font-mono text-[12px]">{l.path.split("/").at(-1)}</span>
              <span className="block text-[12px] text-faint">{l.why}</span>
            </li>
          ))}
          {stow.left.length > 100 ? (
            <li className="py-1 text-faint">and {(stow.left.length - 100).toLocaleString("en-GB")} more</li>
          ) : null}
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
