import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { HeldFile, HeldFiles, TakeBack } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { Check, Path, Size, TextLink } from "../shared/kit";
import { Asked, Badge, Button, Empty, More, Trouble } from "../shared/parts";
import { plural, when } from "../shared/words";

/** most is how many files are drawn; the others are counted. */
const most = 500;

/** Inside is what a backup or a crate holds, beside what is in the project now, and what is taken from it. */
export function Inside({ id, path }: { id: number; path: string }) {
  const { data, error } = useQuery(acts.heldFiles(id, { path }));
  return (
    <Asked error={error} data={data} waiting="Comparing what it holds with the project. You can leave this page.">
      {(h) => <Held key={path} id={id} path={path} h={h} />}
    </Asked>
  );
}

function Held({ id, path, h }: { id: number; path: string; h: HeldFiles }) {
  const others = h.list;
  const free = others.filter((f) => !f.why);
  const [picked, setPicked] = useState<readonly string[]>([]);
  const take = useAct(
    (t: TakeBack) => acts.takeBack(id, t),
    () => setPicked([]),
  );
  const toggle = (place: string) =>
    setPicked(picked.includes(place) ? picked.filter((p) => p !== place) : [...picked, place]);
  const chosen = others.filter((f) => picked.includes(f.place));
  return (
    <Station
      name="Keep"
      slipName="Take into the project"
      sheet={
        <>
          <div className="px-[18px] pt-3 pb-2">
            <p className="text-[15px]">
              {others.length === 0 ? (
                <b className="font-semibold text-moss">Every file of it is in the project, unchanged.</b>
              ) : (
                <>
                  <b className="font-semibold">{plural(others.length + h.more, "file")}</b> of it{" "}
                  {others.length + h.more === 1 ? "is" : "are"} not in the project, or different there;{" "}
                  {h.same === 1 ? "1 is" : `${h.same} are`} the same.
                </>
              )}
            </p>
            <p className="flex gap-3 text-[12.5px] text-ink2">
              <Path full={path}>{h.label}</Path>
              <TextLink to={`/p/${id}/keep?view=backups`}>All backups</TextLink>
            </p>
          </div>
          {others.length === 0 ? (
            <Empty title="Nothing to take">
              <p>What the project has is what was sealed, byte for byte.</p>
            </Empty>
          ) : (
            <div className="min-h-0 flex-1 overflow-auto" tabIndex={0} role="group" aria-label="Files of it">
              <div className={`${columns} border-y border-rule bg-band py-1 text-[11.5px] text-faint`}>
                <span />
                <span>file</span>
                <span>in it</span>
                <span className="w-18 text-right">size</span>
                <span>in the project</span>
              </div>
              <ul>
                {others.slice(0, most).map((f) => (
                  <Line key={f.place} f={f} on={picked.includes(f.place)} onToggle={() => toggle(f.place)} />
                ))}
                <More of={others.slice(0, most)} all={others.length + h.more} />
              </ul>
            </div>
          )}
        </>
      }
      slip={
        <>
          <h2 className="text-[22px]">Take into the project</h2>
          <p className="text-ink2">
            Select what to take. Of the project’s documents an edition is kept first; any other file that is different
            stays beside under a new name. All of it is written, or nothing.
          </p>
          <Needs chosen={chosen} />
          {take.data ? (
            <p role="status" className="text-[13px]">
              <b className="font-semibold text-moss">{plural(take.data.written.length, "file")} taken.</b>
              {take.data.kept > 0 ? ` The state before is edition ${take.data.kept}.` : ""}
              {take.data.beside.length > 0 ? ` What stood there is kept as ${take.data.beside.join(", ")}.` : ""}{" "}
              <TextLink to={`/p/${id}/trace`}>Look at the trace</TextLink>
            </p>
          ) : null}
          <Trouble error={take.error} />
          <Acts>
            <Button
              disabled={free.length === 0}
              onClick={() => setPicked(chosen.length === free.length ? [] : free.map((f) => f.place))}
            >
              {chosen.length > 0 && chosen.length === free.length ? "Select none" : "Select all"}
            </Button>
            <Button
              kind="first"
              disabled={chosen.length === 0 || take.isPending}
              onClick={() => take.mutate({ path, files: chosen.map((f) => f.place) })}
            >
              {chosen.length > 0 ? `Take ${plural(chosen.length, "file")}` : "Take"}
            </Button>
          </Acts>
        </>
      }
    />
  );
}

const columns = "grid grid-cols-[20px_minmax(0,1fr)_132px_84px_168px] items-center gap-3 px-[18px]";

function Line({ f, on, onToggle }: { f: HeldFile; on: boolean; onToggle: () => void }) {
  return (
    <li>
      <label
        className={`${columns} border-b border-hair py-1 ${f.why ? "" : "cursor-pointer"} ${on ? "bg-seawash" : "hover:bg-band"}`}
      >
        <Check checked={on} disabled={f.why !== ""} onChange={onToggle} aria-label={f.path} />
        <span className="min-w-0">
          <span className="flex items-center gap-2">
            <Path>{f.path}</Path>
            {f.document ? <Badge tone="sea">document</Badge> : null}
          </span>
          {f.why ? <span className="block text-[12px] text-ochre">{f.why}</span> : null}
          {f.written && !f.why ? (
            <span className="block text-[12px] text-faint">It will name its files where they are in this project.</span>
          ) : null}
        </span>
        <span className="font-mono text-[11.5px] text-faint">{f.modified ? when(f.modified) : "not told"}</span>
        <Size of={f.bytes} />
        <Here f={f} />
      </label>
    </li>
  );
}

/** Here tells how the project's own stands to it. By their times one is the later; which is right nobody can tell. */
function Here({ f }: { f: HeldFile }) {
  if (f.now === "lost") return <span className="text-[12.5px] text-rust">not there</span>;
  const later = f.changed && f.modified ? Date.parse(f.changed) - Date.parse(f.modified) : 0;
  return (
    <span className="text-[12.5px] text-ochre">
      different{later > 0 ? ", changed later" : later < 0 ? ", changed earlier" : ""}
      {f.changed ? <span className="block font-mono text-[11.5px] text-faint">{when(f.changed)}</span> : null}
    </span>
  );
}

/** Needs tells what comes along with the chosen documents, and what they will find changed. */
function Needs({ chosen }: { chosen: HeldFile[] }) {
  const places = new Set(chosen.map((f) => f.place));
  const beyond = (list: string[]) => new Set(list.filter((p) => !places.has(p))).size;
  const lost = beyond(chosen.flatMap((f) => f.lost));
  const left = beyond(chosen.flatMap((f) => f.others));
  const absent = chosen.filter((f) => f.absent > 0);
  return (
    <>
      {lost > 0 ? (
        <p className="text-[13px] text-ink2">
          Files that the chosen documents use and the project lacks come along ({plural(lost, "file")}).
        </p>
      ) : null}
      {left > 0 ? (
        <p className="text-[13px] text-ochre">
          {plural(left, "file")} that the chosen documents use {left === 1 ? "is" : "are"} different in the project and
          not chosen: the documents will use the project’s.
        </p>
      ) : null}
      {absent.map((f) => (
        <p key={f.place} className="text-[13px] text-rust">
          {f.path} uses {plural(f.absent, "file")} that {f.absent === 1 ? "is" : "are"} neither in the project nor can
          be taken: {f.absent === 1 ? "it" : "they"} will be missing.
        </p>
      ))}
    </>
  );
}
