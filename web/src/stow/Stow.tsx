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
import { Asked, Button, Chip, More, Section, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { bytes, exact, load, plural, timeLeft, count } from "../shared/words";
import { Strip } from "../recipes/Strip";
import { Berths } from "./Berths";
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
  // An assembly has no sounds, and no choices about them, unless somebody made some.
  const sounding =
    [...stow.weighed, ...stow.kinds].some((l) => l.kind === "audio" || l.kind === "sequence") ||
    o.trim !== null ||
    o.sound.type !== "" ||
    o.sound.rate !== 0 ||
    o.sound.depth !== 0 ||
    o.sound.channels !== "";
  return (
    <>
      <div className="px-[18px] pt-3 pb-2">
        <p className="mb-2 text-[15px]">
          <b className="font-semibold">{plural(stow.files, "file")}</b>, <b className="font-semibold">{load(stow)}</b>.{" "}
          {stow.clashes > 0 ? (
            <b className="font-semibold text-ochre">
              {plural(stow.clashes, "name")} had the same name and {stow.clashes === 1 ? "was" : "were"} renamed.
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
          <Chip on={!o.anyNames} onClick={() => set.mutate({ anyNames: !o.anyNames })}>
            portable names
          </Chip>
          <Affix label="before" value={o.prefix} onChange={(prefix) => set.mutate({ prefix })} />
          <Affix label="after" value={o.suffix} onChange={(suffix) => set.mutate({ suffix })} />
        </div>
        {patterned ? <Pattern key={o.layout} value={o.layout} onChange={(layout) => set.mutate({ layout })} /> : null}
        <div className="mt-2 flex flex-wrap items-center gap-2">
          {sounding ? (
            <>
              <span className="text-[12px] text-faint">sounds</span>
              <Choose
                label="Type of sounds"
                value={o.sound.type}
                disabled={set.isPending}
                choices={types}
                onChoose={(type) => set.mutate((o) => ({ sound: { ...o.sound, type } }))}
              />
              <Choose
                label="Rate of sounds"
                value={String(o.sound.rate)}
                disabled={set.isPending}
                choices={rates}
                onChoose={(rate) => set.mutate((o) => ({ sound: { ...o.sound, rate: Number(rate) } }))}
              />
              <Choose
                label="Depth of sounds"
                value={o.sound.float ? "float" : String(o.sound.depth)}
                disabled={set.isPending}
                choices={depths}
                onChoose={(d) =>
                  set.mutate((o) => ({
                    sound: { ...o.sound, depth: d === "float" ? 32 : Number(d), float: d === "float" },
                  }))
                }
              />
              <Choose
                label="Channels of sounds"
                value={o.sound.channels || "as"}
                disabled={set.isPending}
                choices={lying}
                onChoose={(c) =>
                  set.mutate((o) => ({
                    sound: { ...o.sound, channels: c === "split" || c === "interleaved" ? c : "" },
                  }))
                }
              />
              <Chip
                on={o.trim !== null}
                onClick={() => set.mutate((o) => ({ trim: o.trim === null ? 2 : null }))}
                why="Cuts sounds and image sequences to the part in use plus 2 s, where the document format allows. Not for archives."
              >
                used parts only
              </Chip>
            </>
          ) : null}
          <span className="flex flex-wrap items-center gap-2">
            <span className="text-[12px] text-faint" {...tip("simpler documents for interchange")}>
              interchange
            </span>
            {forms.map((f) => (
              <Chip
                key={f.value}
                on={o.interchange.includes(f.value)}
                onClick={() =>
                  set.mutate((o) => ({
                    interchange: o.interchange.includes(f.value)
                      ? o.interchange.filter((x) => x !== f.value)
                      : [...o.interchange, f.value],
                  }))
                }
              >
                {f.word}
              </Chip>
            ))}
          </span>
        </div>
        <Trouble error={set.error} />
      </div>
      <Berths id={id} />
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

const types = [
  { value: "", word: "as they are" },
  { value: "wav", word: "WAV" },
  { value: "aiff", word: "AIFF" },
  { value: "flac", word: "FLAC" },
];
const rates = [
  { value: "0", word: "any rate" },
  { value: "44100", word: "44.1 kHz" },
  { value: "48000", word: "48" },
  { value: "88200", word: "88.2" },
  { value: "96000", word: "96" },
  { value: "176400", word: "176.4" },
  { value: "192000", word: "192" },
];
const depths = [
  { value: "0", word: "any depth" },
  { value: "16", word: "16 bits" },
  { value: "24", word: "24" },
  { value: "32", word: "32" },
  { value: "float", word: "32 floating" },
];
const lying = [
  { value: "as", word: "channels as they are" },
  {
    value: "split",
    word: "one file per channel",
    tip: "Adds one file per channel beside each multichannel sound (.L and .R, or .1, .2 …). References do not change.",
  },
  {
    value: "interleaved",
    word: "joined",
    tip: "Adds one multichannel file beside files of one channel each (.L and .R, or .1, .2 …). References do not change.",
  },
];
const forms = [
  { value: "edl", word: "edit list" },
  { value: "adl", word: "audio list" },
  { value: "m3u", word: "M3U" },
  { value: "xspf", word: "XSPF" },
  { value: "otio-1", word: "older timeline" },
  { value: "list", word: "plain list" },
] as const;

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

/** Affix is text put before or after every name in the crate. */
function Affix({ label, value, onChange }: { label: string; value: string; onChange: (v: string) => void }) {
  const [text, setText] = useState(value);
  return (
    <label className="flex items-center gap-1 text-[12px] text-faint" {...tip(`text ${label} every name in the crate`)}>
      {label}
      <Field
        value={text}
        maxLength={40}
        placeholder="nothing"
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        onBlur={() => text !== value && onChange(text)}
        low
        mono
        className="w-16"
      />
    </label>
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
