import { useState } from "react";

import * as acts from "../api/acts";
import { useAct, useSummary } from "../api/queries";
import type { Keep, KeepNow as Request, KeepSettings, TakeIn } from "../api/types";
import { Acts } from "../frame/Station";
import { useKeys } from "../shared/keys";
import { Check, Field, Path } from "../shared/kit";
import { Button, More, Section, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural, when } from "../shared/words";

/** KeepNow keeps an edition with a note, and sets what is kept automatically. */
export function KeepNow({ id, k }: { id: number; k: Keep }) {
  const [note, setNote] = useState("");
  const [alternative, setAlternative] = useState(false);
  const keep = useAct(
    (r: Request) => acts.keepNow(id, r),
    () => {
      setNote("");
      setAlternative(false);
    },
  );
  const go = () => keep.mutate({ note, alternative });
  useKeys({ s: keep.isPending ? undefined : go });
  return (
    <>
      <h2 className="text-[22px]">Keep an edition</h2>
      <p className="mb-2 text-ink2">All documents of the project together, as they are now.</p>
      <label className="grid gap-1">
        <span className="text-[12px] text-faint">note</span>
        <textarea
          rows={5}
          value={note}
          onChange={(e) => setNote(e.target.value)}
          placeholder="What is this state? What was tried, what is still open?"
          className="rounded-xs border border-rule bg-field px-2 py-1 text-ink"
        />
      </label>
      {k.editions.length > 0 ? (
        <label className="mt-2 flex items-center gap-2">
          <Check checked={alternative} onChange={(e) => setAlternative(e.target.checked)} />
          as an alternative beside edition {k.current}
        </label>
      ) : null}
      <EarlierSaves id={id} k={k} />
      <Section title="Automatic editions">
        <Automatic id={id} k={k} />
      </Section>
      <Section title="Stored in">
        <Path faint>{k.dir}</Path>
        <p className="mt-1 text-[12px] text-faint">
          Plain zstd files and one line of JSON for each edition: readable without Bound Crate.
        </p>
      </Section>
      <Trouble error={keep.error} />
      <Acts>
        <p className="text-[12px] text-faint" role="status">
          {keep.data
            ? keep.data.unchanged
              ? `Unchanged: this state is edition ${keep.data.id} already.`
              : `Kept as edition ${keep.data.id}.`
            : ""}
        </p>
        <Button kind="first" hint="s" disabled={keep.isPending} onClick={go}>
          Keep this state
        </Button>
      </Acts>
    </>
  );
}

/** EarlierSaves are copies of the document that somebody numbered by hand: they become editions with their dates. */
function EarlierSaves({ id, k }: { id: number; k: Keep }) {
  const { data: summary } = useSummary(id);
  const take = useAct((t: TakeIn) => acts.takeIn(id, t));
  const known = new Set(k.editions.filter((e) => e.by === "taken-in").map((e) => e.note));
  const list = (summary?.siblings ?? []).filter((s) => !s.own && !known.has(s.name));
  if (list.length === 0) return null;
  return (
    <Section title="Earlier saves beside it" aside={plural(list.length, "file")}>
      <ul className="mb-2">
        {list.slice(0, 6).map((s) => (
          <li key={s.path} className="flex justify-between gap-2 border-b border-hair py-0.5">
            <Path>{s.name}</Path>
            <span className="font-mono text-[11.5px] whitespace-nowrap text-faint">{when(s.modified)}</span>
          </li>
        ))}
        <More of={list.slice(0, 6)} all={list.length} />
      </ul>
      <Button
        kind="small"
        disabled={take.isPending}
        onClick={() => take.mutate({ paths: list.map((s) => s.path) })}
        {...tip("Each becomes an edition with its own date. The files stay where they are.")}
      >
        Take {list.length === 1 ? "it" : "them"} in as{" "}
        {plural(list.length, "edition").replace(/^1 edition/, "an edition")}
      </Button>
      <Trouble error={take.error} />
    </Section>
  );
}

/** Automatic is what is kept by itself, and for how long. */
function Automatic({ id, k }: { id: number; k: Keep }) {
  const set = useAct((s: KeepSettings) => acts.setKeep(id, s));
  const s = set.isPending ? set.variables : k.settings;
  const number = (name: "every" | "allDays" | "hourly" | "daily", label: string) => (
    <Field
      low
      type="number"
      min={0}
      aria-label={label}
      className="w-16 text-right"
      key={`${name} ${s[name]}`}
      defaultValue={s[name]}
      onBlur={(e) => {
        const n = Math.max(0, Math.round(Number(e.target.value)));
        if (n !== s[name]) set.mutate({ ...s, [name]: n });
      }}
    />
  );
  return (
    <div className="grid gap-1.5 text-[13px]">
      <p>When documents changed, every {number("every", "Minutes between editions")} minutes</p>
      <p>Keep all for {number("allDays", "Days for which all are kept")} days,</p>
      <p>one an hour for {number("hourly", "Days for which one an hour is kept")} days,</p>
      <p>one a day for {number("daily", "Days for which one a day is kept")} days, then one a month.</p>
      <p className="text-[12px] text-faint">
        0 minutes: none. Editions with a note, made by hand, or that a crate was sealed from are always kept.
      </p>
      <Trouble error={set.error} />
    </div>
  );
}
