import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import * as acts from "../api/acts";
import { useAppState, useChoices, useProjectID, useStow } from "../api/queries";
import type { Stow as StowData } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { Choose } from "../shared/Choose";
import { Gauge, Limits } from "../shared/Gauge";
import { Count, Field, Path, Size } from "../shared/kit";
import { Asked, Button, More, Section, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { bytes, exact, load, plural, timeLeft, count } from "../shared/words";
import { Strip } from "../recipes/Strip";
import { Berths } from "./Berths";
import { Conversions } from "./Conversions";
import { Tree } from "./Tree";

/** Stow: where does each thing go, under which name? */
export function Stow() {
  const id = useProjectID();
  const { data, error } = useStow(id);
  return (
    <Station
      name="Stow"
      slipName="Crate"
      sheet={
        <Asked error={error} data={data} waiting="Planning the crate.">
          {(stow) => (
            <>
              <Strip id={id} stow={stow} />
              <Plan id={id} stow={stow} />
            </>
          )}
        </Asked>
      }
      slip={data ? <Sum id={id} stow={data} /> : null}
    />
  );
}

const layouts = [
  { value: "kind", word: "by kind", tip: "one folder per kind of file" },
  { value: "flat", word: "one folder", tip: "all files in one folder" },
  { value: "stands", word: "as now", tip: "keep the present folders" },
  { value: "document", word: "by document", tip: "one folder per document, with the files only it uses" },
] as const;

function Plan({ id, stow }: { id: number; stow: StowData }) {
  const set = useChoices(id);
  const o = stow.options;
  const patterned = o.layout.includes("{");
  return (
    <>
      <div className="px-[18px] pt-3 pb-2">
        <p className="mb-2 text-[15px]">
          <b className="font-semibold">{plural(stow.files, "file")}</b>, <b className="font-semibold">{load(stow)}</b>.{" "}
          {stow.clashes > 0 ? (
            <b className="font-semibold text-ochre">
              {plural(stow.clashes, "file")} renamed because another file has the same name.
            </b>
          ) : (
            "No name clashes."
          )}{" "}
          {stow.absent > 0 ? `${plural(stow.absent, "place is", "places are")} reserved for missing files.` : ""}
        </p>
        <Gauge loads={stow.kinds.map((k) => ({ kind: k.kind, name: k.word, bytes: k.bytes }))} limits={stow.limits} />
        <Looks stow={stow} />
        <div className="mt-2.5 flex flex-wrap items-center gap-2">
          <span className="text-[12px] text-faint">layout</span>
          <Choose
            label="Layout"
            value={patterned ? "pattern" : o.layout}
            choices={[...layouts, { value: "pattern", word: "by a pattern", tip: "folders and names from a pattern" }]}
            disabled={set.isPending}
            onChoose={(v) => set.mutate({ layout: v === "pattern" ? "{kind}/{name}" : v })}
          />
        </div>
        {patterned ? <Pattern key={o.layout} value={o.layout} onChange={(layout) => set.mutate({ layout })} /> : null}
        <Conversions id={id} stow={stow} />
        <Trouble error={set.error} />
      </div>
      <Berths id={id} byHand={stow.byHand} />
    </>
  );
}

/**
 * Looks tells what is to be looked at. Sounds are listened to while the page is open: what that
 * finds must not move the controls below under a pointer, so it is one line until it is opened.
 */
function Looks({ stow }: { stow: StowData }) {
  const [open, setOpen] = useState(false);
  const [first, ...more] = stow.problems;
  const unheard = stow.saying
    ? "Still preparing the documents for the crate."
    : stow.unheard > 0
      ? `${plural(stow.unheard, "sound")} still being checked for damage and clipping.`
      : "";
  return (
    <div className="mt-2">
      <div className={`flex h-6 items-center gap-3 border-l-[3px] pl-2 ${first ? "border-rust" : "border-rule"}`}>
        {first ? (
          <span className={open ? "" : "truncate"}>
            {open ? `${plural(stow.all.problems, "problem")}.` : <Look of={first} />}
          </span>
        ) : (
          <span className="truncate text-faint">
            {unheard || (stow.clashes + stow.absent > 0 ? "No other problems found." : "No problems found.")}
          </span>
        )}
        {first ? (
          <Button kind="small" aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? "Show less" : more.length > 0 ? `Show all ${count(stow.all.problems)}` : "Show more"}
          </Button>
        ) : null}
      </div>
      {open ? (
        <ul className="border-l-[3px] border-rust pl-2">
          {stow.problems.map((p, i) => (
            <li key={i} className="py-0.5">
              <Look of={p} />
            </li>
          ))}
          <More of={stow.problems} all={stow.all.problems} />
          {unheard ? <li className="py-0.5 text-faint">{unheard}</li> : null}
        </ul>
      ) : null}
    </div>
  );
}

const Look = ({ of }: { of: StowData["problems"][number] }) => (
  <>
    <b className="font-medium">{of.path.split("/").at(-1)}</b> {of.message}. {of.do}
  </>
);

/** Pattern is a layout from tokens; what it makes of the files stands below at once. */
function Pattern({ value, onChange }: { value: string; onChange: (v: string) => void }) {
  const [text, setText] = useState(value);
  return (
    <div className="mt-2 flex items-center gap-2">
      <Field
        aria-label="Layout pattern"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        onBlur={() => text !== value && onChange(text)}
        low
        mono
        className="w-80"
      />
      <span className="truncate text-[12px] text-faint">
        {"{kind} {document} {owner} {folder} {origin} {name} {n:3} {date}, / parts folders"}
      </span>
    </div>
  );
}

function Sum({ id, stow }: { id: number; stow: StowData }) {
  const go = useNavigate();
  const { data: state } = useAppState();
  const { data: about } = useQuery(acts.estimates(id));
  return (
    <>
      <h2 className="text-[22px]">Planned crate</h2>
      <Tree id={id} stow={stow} />
      {stow.repoint.length > 0 ? (
        <Section title="Relink by hand" aside={plural(stow.all.repoint, "name")}>
          <p className="text-[12px] text-ink2">
            These documents cannot be rewritten. The recipient relinks them by hand; repoint.csv in the crate lists the
            new paths.
          </p>
          <ul>
            {stow.repoint.map((r) => (
              <li key={r.document + r.written} className="py-1">
                <Path>{r.written}</Path>
                <span className="block truncate text-[12px] text-faint">
                  in {r.document}, now {r.to}
                </span>
              </li>
            ))}
            <More of={stow.repoint} all={stow.all.repoint} />
          </ul>
        </Section>
      ) : null}
      {stow.losses.map((l) => (
        <Section key={l.form} title={`Not kept in the ${l.word}`} aside={l.to}>
          <ul>
            {l.losses.map((x) => (
              <li key={x} className="py-0.5 text-ochre">
                {x}
              </li>
            ))}
            {l.losses.length === 0 ? <li className="text-moss">Everything is kept.</li> : null}
          </ul>
        </Section>
      ))}
      <Section title="Files by kind">
        <ul>
          {stow.kinds.map((k) => (
            <li key={k.kind} className="flex items-baseline gap-2 py-0.5">
              <span className="flex-1">{k.word}</span>
              <Count of={k.files} />
              <Size of={k.bytes} faint />
            </li>
          ))}
        </ul>
      </Section>
      <Section title="Fits on">
        <Limits limits={stow.limits} />
      </Section>
      <Section title="Estimated archive size">
        <ul>
          {(about?.archives ?? []).map((x) => (
            <li key={x.kind} className="flex items-baseline gap-2 py-0.5">
              <span className="flex-1">{x.kind}</span>
              <Size of={x.bytes} />
            </li>
          ))}
          {about ? null : <li className="text-faint">Compressing samples of each kind.</li>}
          {about && about.seconds >= 1 ? (
            <li className="py-0.5 text-ink2">
              Sealing{about.to ? ` to ${about.to}` : ""} takes about {timeLeft(about.seconds)}, by{" "}
              {about.measured ? "by the measured speed of your drives" : "by the typical speed of such drives"}.
            </li>
          ) : null}
        </ul>
      </Section>
      <Section title="Free space on your drives">
        <ul>
          {(state?.drives ?? []).map((d) => (
            <li
              key={d.id}
              className="grid grid-cols-[110px_1fr_64px] items-baseline gap-2 py-0.5"
              {...tip(exact(d.free))}
            >
              <span>{d.name}</span>
              <span className="text-[12px] text-faint">{d.connected ? `${bytes(d.free)} free` : "not connected"}</span>
              <b className={`text-right font-medium ${d.free >= stow.bytes ? "text-moss" : "text-rust"}`}>
                {d.connected ? (d.free >= stow.bytes ? "fits" : "not enough") : ""}
              </b>
            </li>
          ))}
        </ul>
      </Section>
      <Acts>
        <Button kind="first" onClick={() => void go(`/p/${id}/seal`)}>
          Continue to Seal
        </Button>
      </Acts>
    </>
  );
}
