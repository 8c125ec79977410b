import { useState } from "react";
import { useNavigate } from "react-router";

import { useChoices, useProjectID, useStow } from "../api/queries";
import type { AlongSum, Stow, StowOptions, Weighed } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { Strip } from "../recipes/Strip";
import { Choose } from "../shared/Choose";
import { CsvLink, PrintLink } from "../shared/Csv";
import { Gauge, Limits, type Load } from "../shared/Gauge";
import { Field, Size } from "../shared/kit";
import { Asked, Button, More, Section, Trouble, Waiting } from "../shared/parts";
import { usePlace } from "../shared/place";
import { tip } from "../shared/Tip";
import { bytes, exact, load, plural, count } from "../shared/words";
import { Files, facets, nothing } from "./Files";
import { LeftOut } from "./LeftOut";
import { Twice, Unnamed } from "./Unnamed";

interface Sort {
  on: "dormant" | "listed" | "rebuildable" | "library" | "store";
  of: (l: Weighed) => boolean;
  facet: Narrow;
  name: string;
  what: string;
  /** shown only where there is any of it */
  rare?: boolean;
}

const switches: Sort[] = [
  {
    on: "dormant",
    of: (l) => l.use === "dormant",
    facet: { use: "dormant" },
    name: "Inactive",
    what: "inactive takes, disabled clips, unselected variants",
  },
  {
    on: "listed",
    of: (l) => l.use === "listed",
    facet: { use: "listed" },
    name: "Listed but not used",
    what: "declared in the document but not placed",
  },
  {
    on: "rebuildable",
    of: (l) => l.class === "rebuildable",
    facet: { class: "rebuildable" },
    name: "Can be rebuilt",
    what: "fades, peaks, previews, proxies, caches",
    rare: true,
  },
  {
    on: "library",
    of: (l) => l.origin === "library",
    facet: { origin: "library" },
    name: "From a library",
    what: "in a folder marked as library; the recipient may have the same",
    rare: true,
  },
  {
    on: "store",
    of: (l) => l.origin === "store",
    facet: { origin: "store" },
    name: "From a managed store",
    what: "in a folder marked as managed store",
    rare: true,
  },
];

const sum = (ls: Weighed[]) => ls.reduce((n, l) => n + l.bytes, 0);
const files = (ls: Weighed[]) => ls.reduce((n, l) => n + l.files, 0);

/** Sift: what travels? Leaving out is not deleting. */
export function Sift() {
  const id = useProjectID();
  const { data, error } = useStow(id);
  return (
    <Station
      name="Sift"
      slipName="Consequences"
      sheet={
        <Asked error={error} data={data} waiting="Calculating.">
          {(stow) => (
            <>
              <Strip id={id} stow={stow} />
              <Scale id={id} stow={stow} />
            </>
          )}
        </Asked>
      }
      slip={data ? <Lean stow={data} id={id} /> : null}
    />
  );
}

const views = ["switches", "files", "unnamed", "twice", "left"] as const;
type View = (typeof views)[number];

/** What of a kind goes along where its switch does not tell, and what that needs. */
function along(a: AlongSum): string | undefined {
  const said = [
    a.travels && a.goFiles < a.files ? `${a.files - a.goFiles} stay` : "",
    !a.travels && a.goFiles > 0 ? `${a.goFiles} adopted, ${bytes(a.goBytes)}` : "",
    a.needFiles > 0 ? `plus ${plural(a.needFiles, "file")} they reference, ${bytes(a.needBytes)}` : "",
  ].filter(Boolean);
  return said.length > 0 ? said.join(", ") : undefined;
}

function Scale({ id, stow }: { id: number; stow: Stow }) {
  const place = usePlace();
  const stay = stow.weighed.filter((l) => !l.travels);
  const kinds = [...new Map(stow.weighed.map((l) => [l.kind, l.word]))];
  const of = (kind: string, travels: boolean) =>
    sum(stow.weighed.filter((l) => l.kind === kind && l.travels === travels));
  const loads: Load[] = [
    ...kinds.map(([kind, name]) => ({ kind, name, bytes: of(kind, true) })),
    { kind: "along", name: "optional", bytes: stow.alongBytes },
    ...kinds.map(([kind, name]) => ({ kind, name, bytes: of(kind, false), stays: true })),
  ];
  const view = views.find((v) => v === place.get("view")) ?? "switches";
  const show = (narrow: Partial<Record<(typeof facets)[number], string>>) =>
    place.set({ ...nothing, sel: "", view: "files", ...narrow });
  const unnamed = stow.along.filter((a) => a.what !== "companions").reduce((n, a) => n + a.files, 0);
  return (
    <>
      <div className="px-[18px] pt-4 pb-3">
        <p className="mb-3 text-[15px]">
          <b className="font-semibold">{bytes(sum(stow.weighed) - sum(stay) + stow.alongBytes)}</b> travel
          {stay.length > 0 ? (
            <>
              , <b className="font-semibold">{bytes(sum(stay))}</b> stay
            </>
          ) : null}
          : {plural(files(stow.weighed), "file", "files")} besides the documents. Nothing is deleted.
          {stow.options.trim !== null ||
          stow.options.sound.type ||
          stow.options.sound.rate ||
          stow.options.sound.depth ? (
            <> These are present sizes; with converted sounds the crate takes {load(stow)}.</>
          ) : null}
        </p>
        <Gauge
          loads={loads}
          limits={stow.limits}
          onPick={(l) =>
            show(l.kind === "along" ? { along: "all" } : { kind: l.kind, only: l.stays ? "stays" : "travels" })
          }
        />
        <div className="mt-3 flex items-center gap-3">
          <Choose
            label="View"
            value={view}
            onChoose={(v) => place.set({ ...nothing, sel: "", view: v === "switches" ? "" : (v as View) })}
            choices={[
              { value: "switches", word: "switches" },
              { value: "files", word: "all files" },
              {
                value: "unnamed",
                word: `unreferenced files · ${stow.seeking ? "…" : count(unnamed)}`,
              },
              { value: "twice", word: "duplicates and same names" },
              { value: "left", word: `left out · ${count(stow.all.left)}` },
            ]}
          />
          {stow.passes.length > 2 ? <span className="text-[12px] text-faint">{passed(stow.passes)}</span> : null}
        </div>
      </div>
      {view === "switches" ? <Switches id={id} stow={stow} onShow={show} /> : null}
      {view === "files" ? <Files id={id} /> : null}
      {view === "unnamed" ? (
        stow.seeking ? (
          <Waiting what="Searching the project folder." />
        ) : (
          <Unnamed id={id} />
        )
      ) : null}
      {view === "twice" ? <Twice id={id} /> : null}
      {view === "left" ? <LeftOut id={id} /> : null}
    </>
  );
}

/** passed says what fell away with what was left, pass by pass. */
const passed = (passes: readonly number[]) =>
  `then ${passes
    .slice(1, -1)
    .map((n) => plural(n, "file"))
    .join(", then ")} no longer needed`;

type Narrow = Partial<Record<(typeof facets)[number], string>>;

function Switches({ id, stow, onShow }: { id: number; stow: Stow; onShow: (n: Narrow) => void }) {
  const set = useChoices(id);
  const o = stow.options;
  const leave = (change: Partial<StowOptions["leave"]>) => set.mutate((o) => ({ leave: { ...o.leave, ...change } }));
  const kinds = [...new Map(stow.weighed.map((l) => [l.kind, l.word]))];
  const left = o.leave.kinds ?? [];
  const docs = o.leave.documents ?? [];
  const named: string[] = stow.along.map((a) => a.what);
  const without = <T,>(list: readonly T[], x: T) => list.filter((y) => y !== x);
  return (
    <div
      className="min-h-0 flex-1 overflow-auto border-t border-rule px-[18px] pt-3 pb-4"
      tabIndex={0}
      role="group"
      aria-label="Switches"
    >
      <Trouble error={set.error} />
      <Section title="By use and origin">
        {switches.map((s) => {
          const lines = stow.weighed.filter(s.of);
          if (s.rare && lines.length === 0) return null;
          return (
            <Switch
              key={s.on}
              name={s.name}
              what={s.what}
              files={files(lines)}
              bytes={sum(lines)}
              stays={o.leave[s.on]}
              busy={set.isPending}
              onSet={(stays) => leave({ [s.on]: stays })}
              onShow={() => onShow(s.facet)}
            />
          );
        })}
        {stow.twins.files > 0 ? (
          <Switch
            name="Duplicates"
            what={
              stow.twins.known
                ? "same content under several paths; one copy travels and all references lead to it"
                : "files of equal size, being compared"
            }
            files={stow.twins.files}
            bytes={stow.twins.bytes}
            stays={o.leave.duplicates}
            busy={set.isPending}
            onSet={(duplicates) => leave({ duplicates })}
            onShow={() => onShow({ why: "duplicate" })}
          />
        ) : null}
      </Section>
      {stow.kept.length > 0 ? (
        <p className="mt-2 text-[12px] text-ink2">Still needed: {stow.kept.join("; ")}.</p>
      ) : null}
      <Section title="Optional files" aside="not referenced by any document">
        {stow.along.map((a) => (
          <Switch
            key={a.what}
            name={sentence(a.word)}
            what={along(a)}
            files={a.files}
            bytes={a.bytes}
            stays={!a.travels}
            busy={set.isPending || (a.files === 0 && !a.travels)}
            onSet={(stays) => set.mutate((o) => ({ also: stays ? without(o.also, a.what) : [...o.also, a.what] }))}
            onShow={() => onShow({ along: a.what })}
          />
        ))}
        <Globs
          key={`also ${o.also.join()}`}
          label="Further folders and names"
          word="others"
          value={o.also.filter((a) => !named.includes(a))}
          onSet={(list) => set.mutate((o) => ({ also: [...o.also.filter((a) => named.includes(a)), ...list] }))}
        />
      </Section>
      <ByName stow={stow} onLeave={leave} />
      <Section title="By kind">
        {kinds.map(([kind, word]) => {
          const lines = stow.weighed.filter((l) => l.kind === kind);
          return (
            <Switch
              key={kind}
              name={sentence(word)}
              files={files(lines)}
              bytes={sum(lines)}
              stays={left.includes(kind)}
              busy={set.isPending}
              onSet={(stays) => leave({ kinds: stays ? [...left, kind] : without(left, kind) })}
              onShow={() => onShow({ kind })}
            />
          );
        })}
      </Section>
      {stow.documents.length > 0 ? (
        <Section title="By document" aside="with the files only it uses">
          {stow.documents.map((d) => (
            <Switch
              key={d.path}
              name={d.name}
              what={d.label}
              files={d.files}
              bytes={d.bytes}
              stays={d.stays}
              busy={set.isPending}
              onSet={(stays) => leave({ documents: stays ? [...docs, d.path] : without(docs, d.path) })}
              onShow={() => onShow({ doc: d.path })}
            />
          ))}
        </Section>
      ) : null}
      <Weighed stow={stow} onShow={onShow} />
    </div>
  );
}

/** ByName are the files that stay or travel by what they are called. */
function ByName({ stow, onLeave }: { stow: Stow; onLeave: (change: Partial<StowOptions["leave"]>) => void }) {
  return (
    <Section title="By name" aside="relative to the project folder; * any characters, ** any folders">
      <Globs
        key={`drop ${(stow.options.leave.drop ?? []).join()}`}
        label="Never travels"
        word="never travels"
        value={stow.options.leave.drop ?? []}
        onSet={(drop) => onLeave({ drop })}
      />
      <Globs
        key={`keep ${(stow.options.leave.keep ?? []).join()}`}
        label="Always travels"
        word="always travels"
        value={stow.options.leave.keep ?? []}
        onSet={(keep) => onLeave({ keep })}
      />
      {stow.unmatched.map((g) => (
        <p key={g} className="text-[12px] text-ochre">
          No file matches “{g}”.
        </p>
      ))}
    </Section>
  );
}

/** Weighed is what every kind comes to, by its use and where it lives. */
function Weighed({ stow, onShow }: { stow: Stow; onShow: (n: Narrow) => void }) {
  return (
    <Section title="Sizes by kind and use" aside="every referenced file, counted once">
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
              <td className="py-1">
                <button
                  type="button"
                  className="text-left underline decoration-rule underline-offset-2 hover:decoration-ink"
                  onClick={() =>
                    onShow({ kind: l.kind, use: l.use, origin: l.origin, only: l.travels ? "travels" : "stays" })
                  }
                >
                  {l.word}
                </button>
              </td>
              <td>{l.use}</td>
              <td className="text-ink2">{l.from}</td>
              <td className="text-right font-mono text-[12px]">{count(l.files)}</td>
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
  );
}

/** Globs are patterns of paths, parted by commas. */
function Globs({
  label,
  word,
  value,
  onSet,
}: {
  label: string;
  word: string;
  value: readonly string[];
  onSet: (list: string[]) => void;
}) {
  const said = value.join(", ");
  const [text, setText] = useState(said);
  return (
    <label className="grid grid-cols-[110px_minmax(0,1fr)] items-center gap-3 border-b border-hair py-1.5">
      <span className="text-[12px] text-faint">{word}</span>
      <Field
        aria-label={label}
        value={text}
        placeholder="notes/**, *.pdf"
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        onBlur={() =>
          text !== said &&
          onSet(
            text
              .split(",")
              .map((g) => g.trim())
              .filter(Boolean),
          )
        }
        low
        mono
      />
    </label>
  );
}

const sentence = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);

/** Switch is one sort of thing that travels or stays, with what it weighs. */
function Switch(p: {
  name: string;
  what?: string | undefined;
  files: number;
  bytes: number;
  stays: boolean;
  busy: boolean;
  onSet: (stays: boolean) => void;
  onShow: () => void;
}) {
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_90px_84px_132px] items-center gap-3 border-b border-hair py-1.5 max-[560px]:grid-cols-[1fr_auto] max-[560px]:gap-y-1">
      <span className="min-w-0">
        <b className="block truncate font-medium">{p.name}</b>
        {p.what ? <span className="block truncate text-[12px] text-faint">{p.what}</span> : null}
      </span>
      <button
        type="button"
        disabled={p.files === 0}
        onClick={p.onShow}
        className="text-right font-mono text-[12px] underline decoration-rule underline-offset-2 hover:decoration-ink disabled:no-underline"
      >
        {plural(p.files, "file")}
      </button>
      <Size of={p.bytes} />
      <span className="flex justify-end">
        <Choose
          label={p.name}
          value={p.stays ? "stays" : "travels"}
          disabled={p.busy}
          onChoose={(v) => p.onSet(v === "stays")}
          choices={[
            { value: "travels", word: "travels" },
            { value: "stays", word: "stays" },
          ]}
        />
      </span>
    </div>
  );
}

function Lean({ stow, id }: { stow: Stow; id: number }) {
  const go = useNavigate();
  const stays = stow.weighed.some((l) => !l.travels);
  return (
    <>
      <h2 className="text-[22px]">
        {stow.forArchive
          ? "Suitable as an archive"
          : stays
            ? "A lean crate"
            : stow.absent > 0
              ? "Everything found is included"
              : "Everything in use is included"}
      </h2>
      <p className="mt-1">
        {stow.forArchive
          ? "Unreferenced files, companions, earlier versions, notes and renderings travel too. Not included in any crate:"
          : stays
            ? "Suitable for handoff. Leaves out:"
            : `All referenced files${stow.absent > 0 ? " that were found" : ""} are included. Not suitable as an archive. Leaves out:`}
      </p>
      <ul className="mt-1">
        {stow.givesUp.map((g) => (
          <li key={g.what} className={`py-0.5 ${g.what === "undo" ? "text-faint" : "text-ochre"}`}>
            {g.text}
          </li>
        ))}
      </ul>
      {stow.drawn ? (
        <Section title="Drawings">
          <p>{stow.drawn}</p>
        </Section>
      ) : null}
      <Section title="Fits on">
        <Limits limits={stow.limits} />
      </Section>
      <Section
        title="Not in the crate"
        aside={
          <>
            {count(stow.all.left)} · <CsvLink id={id} name="left" /> <PrintLink id={id} name="left" />
          </>
        }
      >
        <ul>
          {stow.left.map((l) => (
            <li key={l.path + l.why} className="py-1" {...tip(l.path)}>
              <span className="block truncate font-mono text-[12px]">{l.path.split("/").at(-1)}</span>
              <span className="block text-[12px] text-faint">{l.why}</span>
            </li>
          ))}
          <More of={stow.left} all={stow.all.left} />
          {stow.left.length === 0 ? <li className="text-faint">Nothing is left out.</li> : null}
        </ul>
      </Section>
      <Acts>
        <Button kind="first" onClick={() => void go(`/p/${id}/stow`)}>
          Continue to Stow
        </Button>
      </Acts>
    </>
  );
}
