import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import * as acts from "../api/acts";
import { useAct, useAppState } from "../api/queries";
import type { Declare, DriveCard, SetDrive } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { Choose } from "../shared/Choose";
import { FolderPicker } from "../shared/FolderPicker";
import { Check, TextLink } from "../shared/kit";
import { Asked, Button, Empty, Fact, Section, Trouble } from "../shared/parts";
import { usePlace } from "../shared/place";
import { tip } from "../shared/Tip";
import { bytes, exact, plural, when } from "../shared/words";

const kinds: Record<string, [word: string, more: string]> = {
  fixed: ["fixed", "built in"],
  removable: ["removable", "removable"],
  network: ["network", "network"],
  optical: ["optical", "optical disc; too slow for playback"],
  synced: ["synced", "synced by another program, which may change files"],
};

const perSecond = (n: number) => `${bytes(n)}/s`;

/** Drives: room, speed given against speed asked, and what leans on each. */
export function Drives() {
  const { data, error } = useQuery(acts.driveCards());
  const place = usePlace();
  return (
    <Asked error={error} data={data} waiting="Checking the drives.">
      {({ list }) => {
        const chosen = list.find((d) => d.drive.id === place.get("sel")) ?? list[0];
        return (
          <Station
            name="Drives"
            slipName="Selected drive"
            sheet={
              list.length === 0 ? (
                <Empty title="No drive yet">
                  A drive is any folder you work in. <TextLink to="/">Add a drive</TextLink>.
                </Empty>
              ) : (
                <div
                  className="flex min-h-0 flex-1 flex-wrap content-start gap-3 overflow-auto px-[18px] py-4"
                  role="group"
                  aria-label="Drives"
                >
                  {list.map((d) => (
                    <Column
                      key={d.drive.id}
                      card={d}
                      on={d.drive.id === chosen?.drive.id}
                      onChoose={() => place.set({ sel: d.drive.id })}
                    />
                  ))}
                </div>
              )
            }
            slip={chosen ? <Chosen key={chosen.drive.id} card={chosen} /> : null}
          />
        );
      }}
    </Asked>
  );
}

/** Column is a drive as it stands: its level, its speed, whether it can be taken out. */
function Column({ card: c, on, onChoose }: { card: DriveCard; on: boolean; onChoose: () => void }) {
  const d = c.drive;
  const used = d.total > 0 ? (d.total - d.free) / d.total : 0;
  const slow = c.gives > 0 && c.needs > c.gives;
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onChoose}
      className={`flex w-44 shrink-0 flex-col gap-1 self-start border bg-sheet p-3 text-left ${on ? "border-sea" : "border-rule hover:border-ink"}`}
    >
      <span className="flex w-full items-baseline justify-between gap-2">
        <b className="truncate font-frame text-[20px] font-semibold">{d.name}</b>
        <span className="truncate text-[11.5px] text-faint">{kinds[d.kind]?.[0] ?? d.kind}</span>
      </span>
      <svg viewBox="0 0 150 110" className="my-1 w-full" aria-hidden>
        {d.connected ? (
          <rect x="1.5" y={1.5 + 107 * (1 - used)} width="147" height={107 * used} className="fill-tank" />
        ) : null}
        <rect
          x="1.5"
          y="1.5"
          width="147"
          height="107"
          fill="none"
          className="stroke-ink2"
          strokeWidth="1.5"
          strokeDasharray={d.connected ? undefined : "6 4"}
        />
      </svg>
      <span className="text-[12.5px]">
        {d.connected ? (
          <span {...tip(exact(d.free))}>
            <b className="font-semibold">{bytes(d.free)}</b> free of {bytes(d.total)}
          </span>
        ) : (
          <b className="font-semibold text-ochre">{d.silent ? "not responding" : "not connected"}</b>
        )}
      </span>
      <Speed card={c} />
      <span className={`text-[12.5px] ${slow ? "font-semibold text-rust" : "text-ink2"}`}>
        {c.needs === 0
          ? "no playback needed"
          : slow
            ? `too slow: ${perSecond(c.needs)} needed`
            : `${perSecond(c.needs)} needed`}
      </span>
      <span className="text-[12.5px] text-ink2">
        {c.projects.length === 0
          ? "no project uses it"
          : `${plural(c.projects.length, "project uses", "projects use")} it`}
      </span>
      <span
        className={`border-t border-hair pt-1 text-[12.5px] font-medium ${d.kind === "fixed" ? "text-ink2" : c.safe ? "text-moss" : "text-ochre"}`}
      >
        {!d.connected ? "out" : d.kind === "fixed" ? "fixed drive" : c.safe ? "safe to eject" : "do not eject"}
      </span>
    </button>
  );
}

/** Speed draws what is asked of a drive over what it gives. */
function Speed({ card: c }: { card: DriveCard }) {
  const most = Math.max(c.gives, c.needs, 1);
  return (
    <span
      className="block"
      {...tip(c.gives > 0 ? `${exact(c.gives)} per second available, ${exact(c.needs)} needed` : "not tested yet")}
    >
      <span className="mb-0.5 flex justify-between text-[11.5px] text-faint">
        <span>speed</span>
        <span className="font-mono">{c.gives > 0 ? perSecond(c.gives) : "unknown"}</span>
      </span>
      <svg viewBox="0 0 150 10" className="block w-full" preserveAspectRatio="none" aria-hidden>
        <rect x="0" y="0" width="150" height="10" className="fill-band" />
        <rect x="0" y="0" width={(150 * c.gives) / most} height="10" className="fill-tank" />
        <rect
          x="0"
          y="3"
          width={c.gives > 0 ? (150 * c.needs) / most : 0}
          height="4"
          className={c.gives > 0 && c.needs > c.gives ? "fill-rust" : "fill-ink"}
        />
      </svg>
    </span>
  );
}

function Chosen({ card: c }: { card: DriveCard }) {
  const d = c.drive;
  const { data: state } = useAppState();
  const plug = useAct((connected: boolean) => acts.plug(d.id, { connected }));
  const [work, setWork] = useState({ measure: "", index: "" });
  const measure = useAct(
    () => acts.measure(d.id),
    (out) => setWork((w) => ({ ...w, measure: out.job.id })),
  );
  const index = useAct(
    () => acts.indexDrive(d.id),
    (out) => setWork((w) => ({ ...w, index: out.job.id })),
  );
  const runs = (id: string) => state?.jobs.some((j) => j.id === id && j.state === "running") ?? false;
  const error = plug.error ?? measure.error ?? index.error;
  return (
    <>
      <h2 className="text-[22px]">{d.name}</h2>
      <p className="mb-2 text-ink2">
        {!d.connected
          ? d.silent
            ? "Not responding."
            : "Not connected."
          : d.kind === "fixed"
            ? `Fixed drive${c.safe ? "" : `, in use: ${c.why}`}.`
            : c.safe
              ? "Safe to eject: nothing running uses it."
              : `Do not eject: ${c.why}.`}
      </p>
      <dl>
        <Fact name="folder">{d.dir}</Fact>
        <Fact name="index">
          {c.indexAt ? `${plural(c.indexed, "file")}, indexed ${when(c.indexAt)}` : "not indexed"}
        </Fact>
        <Fact name="speed">
          {c.measured
            ? `${perSecond(c.gives)}, tested ${when(c.measured)}`
            : c.gives > 0
              ? `${perSecond(c.gives)}, typical for its kind`
              : "not tested"}
        </Fact>
        {c.needs > 0 ? (
          <Fact name="needed">
            {perSecond(c.needs)} while {c.needsBy} plays
          </Fact>
        ) : null}
      </dl>
      {c.unread.length > 0 ? (
        <Section title="Could not be read" aside={String(c.unread.length)}>
          <ul>
            {c.unread.map((u) => (
              <li key={u} className="truncate font-mono text-[12px]" {...tip(u)}>
                {u}
              </li>
            ))}
          </ul>
        </Section>
      ) : null}
      <Leans card={c} />
      <BacksUp c={c} />
      <Folders card={c} />
      <Kind card={c} />
      <Trouble error={error} />
      <p className="mt-4 text-[12px]">
        <TextLink to="/doctor">What works on this machine</TextLink>
      </p>
      <Acts>
        <div className="flex gap-2">
          <Button
            className="flex-1"
            disabled={!d.connected || measure.isPending || runs(work.measure)}
            onClick={() => measure.mutate(undefined)}
          >
            {runs(work.measure) ? "Testing speed" : "Test speed"}
          </Button>
          <Button
            className="flex-1"
            disabled={!d.connected || index.isPending || runs(work.index)}
            onClick={() => index.mutate(undefined)}
          >
            {runs(work.index) ? "Indexing" : "Index"}
          </Button>
        </div>
        {d.standIn ? (
          <Button kind="first" disabled={plug.isPending} onClick={() => plug.mutate(!d.connected)}>
            {d.connected ? "Unplug" : "Plug in"}
          </Button>
        ) : null}
      </Acts>
    </>
  );
}

/** BacksUp are the projects whose backups lie on a drive. */
function BacksUp({ c }: { c: DriveCard }) {
  if (c.backups.length === 0) return null;
  return (
    <Section title="Backups" aside={String(c.backups.length)}>
      <ul>
        {c.backups.map((b) => (
          <li key={b.project} className="flex justify-between gap-3 border-b border-hair py-0.5">
            <TextLink to={`/p/${b.project}/keep?view=backups`}>{b.name}</TextLink>
            <span className={`text-[12px] ${b.overdue ? "text-ochre" : "text-faint"}`}>
              {b.overdue || (b.at ? when(b.at) : "")}
            </span>
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** Leans are the projects that use files of a drive, or write to it. */
function Leans({ card: c }: { card: DriveCard }) {
  return (
    <Section title="Used by" aside={c.projects.length > 0 ? String(c.projects.length) : undefined}>
      {c.projects.length === 0 ? <p className="text-faint">No traced project.</p> : null}
      <ul className="max-h-40 overflow-auto">
        {c.projects.map((p) => (
          <li key={p.project} className="flex min-h-7 items-center gap-2 border-b border-hair">
            <Link to={`/p/${p.project}/trace`} className="min-w-0 flex-1 truncate py-1 text-sea hover:underline">
              {p.name}
            </Link>
            <span className="text-[12px] whitespace-nowrap text-faint">
              {[
                p.files > 0 && plural(p.files, "file"),
                p.writes > 0 && `writes to ${p.writes}`,
                p.needs > 0 && perSecond(p.needs),
              ]
                .filter(Boolean)
                .join(" · ")}
            </span>
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** Folders are the libraries and managed stores of a drive, as somebody said. */
function Folders({ card: c }: { card: DriveCard }) {
  const d = c.drive;
  const [declaring, setDeclaring] = useState(false);
  const [folder, setFolder] = useState({ path: "", label: "" });
  const declare = useAct(
    (r: Declare) => acts.declare(r),
    () => setDeclaring(false),
  );
  return (
    <Section title="Libraries and managed stores">
      <ul>
        {c.folders.map((f) => (
          <li key={f.path} className="flex items-center gap-2 border-b border-hair py-1">
            <span className="min-w-0 flex-1 truncate font-mono text-[12px]" {...tip(f.path)}>
              {f.label}
            </span>
            <span className="text-[12px] text-faint">{f.kind === "store" ? "managed store" : "library"}</span>
            <Button
              kind="small"
              disabled={declare.isPending}
              aria-label={`Remove the mark from ${f.label}`}
              onClick={() => declare.mutate({ path: f.path, kind: "" })}
            >
              Remove mark{" "}
            </Button>
          </li>
        ))}
      </ul>
      {declaring ? (
        <div className="mt-2">
          <FolderPicker low start={d.dir} onFolder={(path, label) => setFolder({ path, label })} />
          <div className="mt-2 flex gap-2">
            <Button
              kind="small"
              disabled={!folder.path || declare.isPending}
              onClick={() => declare.mutate({ path: folder.path, kind: "library" })}
            >
              Mark as library
            </Button>
            <Button
              kind="small"
              disabled={!folder.path || declare.isPending}
              onClick={() => declare.mutate({ path: folder.path, kind: "store" })}
              {...tip("Its folders hold revisions. Files are only ever copied out of it.")}
            >
              Mark as managed store
            </Button>
            <Button kind="small" onClick={() => setDeclaring(false)}>
              Cancel
            </Button>
          </div>
        </div>
      ) : (
        <Button kind="small" className="mt-1" disabled={!d.connected} onClick={() => setDeclaring(true)}>
          Mark as library or managed store
        </Button>
      )}
      <Trouble error={declare.error} />
    </Section>
  );
}

/** Kind is of what kind a drive is; how far it can be trusted to play leans on it. */
function Kind({ card: c }: { card: DriveCard }) {
  const d = c.drive;
  const set = useAct((s: SetDrive) => acts.setDrive(d.id, s));
  return (
    <Section title="Kind">
      <Choose
        label="Kind of drive"
        value={d.kind}
        disabled={set.isPending}
        onChoose={(kind) => set.mutate({ kind, slowed: null })}
        choices={Object.entries(kinds).map(([value, [word, more]]) => ({ value, word, tip: more }))}
      />
      <p className="mt-1 text-[12px] text-faint">
        {c.kindSaid
          ? "Set by you."
          : d.standIn
            ? "As the simulated drive."
            : "Detected from the system; change it if it is wrong."}
      </p>
      {d.standIn ? (
        <label className="mt-1 flex items-center gap-2 text-[12.5px]">
          <Check
            checked={c.slowed > 0}
            disabled={set.isPending}
            onChange={(e) => set.mutate({ kind: null, slowed: e.target.checked ? 1_385_000 : 0 })}
          />
          simulated at the speed of a disc, 1× (1.385 MB/s)
        </label>
      ) : null}
      <Trouble error={set.error} />
    </Section>
  );
}
