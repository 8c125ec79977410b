import { useState } from "react";

import { useChoices } from "../api/queries";
import type { Stow as StowData } from "../api/types";
import { Choose } from "../shared/Choose";
import { Field } from "../shared/kit";
import { Button, Chip, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";

/** Whether the choices are open is remembered for all projects, on this machine. */
const kept = "boundcrate.conversions";

/** Conversions are the choices about names, sounds and interchange: one line that says them, until it is opened. */
export function Conversions({ id, stow }: { id: number; stow: StowData }) {
  const [open, setOpen] = useState(() => localStorage.getItem(kept) === "open");
  const turn = () => {
    localStorage.setItem(kept, open ? "" : "open");
    setOpen(!open);
  };
  return (
    <div className="mt-2">
      <div className="flex items-center gap-3">
        <span className="min-w-0 flex-1 truncate text-[12.5px] text-ink2">{summary(stow)}</span>
        <Button kind="small" aria-expanded={open} onClick={turn}>
          {open ? "Hide options" : "Options"}
        </Button>
      </div>
      {open ? <Choices id={id} stow={stow} /> : null}
    </div>
  );
}

/** summary says what is chosen in one line. */
function summary({ options: o, weighed, kinds }: StowData) {
  const word = <T extends string>(list: readonly { value: T; word: string }[], v: string) =>
    list.find((x) => x.value === v)?.word ?? v;
  const sound = [
    o.sound.type ? word(types, o.sound.type) : "",
    o.sound.rate ? `${o.sound.rate / 1000} kHz` : "",
    o.sound.depth ? `${o.sound.depth} bits${o.sound.float ? " floating" : ""}` : "",
    o.sound.channels ? word(lying, o.sound.channels) : "",
  ].filter(Boolean);
  return [
    hasSounds({ options: o, weighed, kinds })
      ? sound.length > 0
        ? `sounds as ${sound.join(", ")}`
        : "sounds as they are"
      : "",
    o.trim !== null ? "used parts only" : "",
    o.anyNames ? "names as they are" : "portable names",
    o.prefix || o.suffix ? `names as ${o.prefix}…${o.suffix}` : "",
    o.interchange.length > 0 ? `interchange: ${o.interchange.map((f) => word(forms, f)).join(", ")}` : "no interchange",
  ]
    .filter(Boolean)
    .join(" · ");
}

/** hasSounds: an assembly has no sounds, and no choices about them, unless somebody made some. */
const hasSounds = ({ options: o, weighed, kinds }: Pick<StowData, "options" | "weighed" | "kinds">) =>
  [...weighed, ...kinds].some((l) => l.kind === "audio" || l.kind === "sequence") ||
  o.trim !== null ||
  o.sound.type !== "" ||
  o.sound.rate !== 0 ||
  o.sound.depth !== 0 ||
  o.sound.channels !== "";

function Choices({ id, stow }: { id: number; stow: StowData }) {
  const set = useChoices(id);
  const o = stow.options;
  return (
    <>
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <span className="text-[12px] text-faint">names</span>
        <Chip on={!o.anyNames} onClick={() => set.mutate({ anyNames: !o.anyNames })}>
          portable names
        </Chip>
        <Affix label="before" value={o.prefix} onChange={(prefix) => set.mutate({ prefix })} />
        <Affix label="after" value={o.suffix} onChange={(suffix) => set.mutate({ suffix })} />
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-2">
        {hasSounds(stow) ? (
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
    </>
  );
}

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
