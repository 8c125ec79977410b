import { useMemo, useState } from "react";
import { useSearchParams } from "react-router";

import { api } from "../api/client";
import { useAct, useAppState, useMend, useProjectID } from "../api/queries";
import type { Candidate, Mend as MendData, Repair, Search, Started, Wanted, WriteResult } from "../api/types";
import { Station } from "../frame/Station";
import { Confirm, Sheet } from "../shared/Confirm";
import { FolderPicker } from "../shared/FolderPicker";
import { useKeys } from "../shared/keys";
import { Mark } from "../shared/Mark";
import { Asked, Badge, Button, Chip, Empty, Section, Trouble } from "../shared/parts";
import { plural } from "../shared/words";
import { Evidence } from "./Evidence";

/** Mend: find it again. Nothing on disk changes here until it is asked for. */
export function Mend() {
  const id = useProjectID();
  const [place, setPlace] = useSearchParams();
  const { data, error } = useMend(id);
  const selected = place.get("sel") ?? "";
  const select = (sel: string) => setPlace(sel ? { sel } : {}, { replace: true });
  const wanted = data?.wanted.find((w) => w.expected === selected) ?? data?.wanted[0];
  const move = (by: number) => {
    if (!data || !wanted) return;
    const next = data.wanted[data.wanted.indexOf(wanted) + by];
    if (next) select(next.expected);
  };
  const undo = useAct((r: Repair) => api.drop(`/projects/${id}/repairs/${r.id}`));
  const lastRepair = data?.repairs.at(-1);
  const keys: Record<string, () => void> = { j: () => move(1), ArrowDown: () => move(1), k: () => move(-1), ArrowUp: () => move(-1) };
  if (lastRepair) keys.u = () => undo.mutate(lastRepair);
  useKeys(keys);
  const sheet = (
    <Asked error={error} data={data} waiting="Asking what is missing.">
      {(data) => (
        <>
          <LookHere id={id} mend={data} />
          <div className="min-h-0 flex-1 overflow-auto">
            {data.wanted.length === 0 ? (
              <Empty title="Nothing is missing">{data.repairs.length > 0 ? "The repairs below hold it together. The crate will name the files where they are now; write them into the documents if the project itself should." : "Every file is where its document says, or on a drive that only has to be connected."}</Empty>
            ) : (
              <ul aria-label="Wanted files">
                {data.wanted.map((w) => (
                  <WantedLine key={w.expected} wanted={w} searched={data.searched > 0} on={w === wanted} onSelect={() => select(w.expected)} />
                ))}
              </ul>
            )}
            <Repairs id={id} mend={data} onUndo={(r) => undo.mutate(r)} busy={undo.isPending} />
            <Trouble error={undo.error} />
          </div>
        </>
      )}
    </Asked>
  );
  return <Station name="Mend" slipName="Evidence" sheet={sheet} slip={wanted && data ? <Evidence key={wanted.expected} id={id} wanted={wanted} searched={data.searched > 0} onDone={(next) => select(next)} after={after(data, wanted)} /> : <Mended mend={data} />} />;
}

/** after is what to turn to once the wanted file is mended. */
function after(mend: MendData, wanted: Wanted): string {
  const i = mend.wanted.indexOf(wanted);
  return (mend.wanted[i + 1] ?? mend.wanted[i - 1])?.expected ?? "";
}

function Mended({ mend }: { mend: MendData | undefined }) {
  if (!mend) return null;
  return (
    <>
      <h2 className="text-[22px]">{mend.repairs.length > 0 ? `${plural(mend.repairs.length, "repair")} in place` : "No repairs"}</h2>
      <p className="mt-1 text-ink2">Go on to Sift, and decide what travels.</p>
    </>
  );
}

/** LookHere says where to look first. The whole machine is never searched unasked. */
function LookHere({ id, mend }: { id: number; mend: MendData }) {
  const { data: state } = useAppState();
  const [folders, setFolders] = useState<string[]>(mend.folders);
  const [picking, setPicking] = useState(false);
  const [picked, setPicked] = useState({ path: "", label: "" });
  const [extra, setExtra] = useState<{ path: string; label: string }[]>([]);
  const search = useAct((s: Search) => api.post<Started>(`/projects/${id}/search`, s));
  const running = state?.jobs.find((j) => j.kind === "search" && j.project === id && j.state === "running");
  const offers = [...mend.suggest, ...extra];
  const toggle = (p: string) => setFolders((f) => (f.includes(p) ? f.filter((x) => x !== p) : [...f, p]));
  return (
    <div className="border-b border-rule bg-band px-[18px] py-3">
      <p className="mb-2 text-[15px]">
        {mend.searched === 0 ? (
          <>
            <b className="font-semibold">Where should it look?</b> Choose folders, nearest first. Only what is certain and alone is repaired unasked.
          </>
        ) : (
          <>
            <b className="font-semibold">
              {mend.looked} looked for, {mend.found} found for certain
            </b>{" "}
            among {plural(mend.searched, "file")}. {mend.wanted.length > 0 ? "The rest needs your eye." : ""}
          </>
        )}
      </p>
      <div className="flex flex-wrap items-center gap-2">
        {offers.map((s) => (
          <Chip key={s.path} on={folders.includes(s.path)} onClick={() => toggle(s.path)}>
            {s.label}
          </Chip>
        ))}
        <Button kind="small" onClick={() => setPicking(true)}>
          Another folder
        </Button>
        <span className="flex-1" />
        <Button kind="first" disabled={folders.length === 0 || search.isPending || running !== undefined} onClick={() => search.mutate({ folders })}>
          {running ? "Looking" : mend.searched > 0 ? "Look again" : "Look for everything missing"}
        </Button>
      </div>
      <Trouble error={search.error} />
      <Sheet open={picking} onClose={() => setPicking(false)} title="Look in this folder">
        <div className="px-5 pb-4">
          <FolderPicker onFolder={(path, label) => setPicked({ path, label })} />
        </div>
        <div className="flex justify-end gap-2 border-t border-rule bg-band px-5 py-3">
          <Button onClick={() => setPicking(false)}>Close</Button>
          <Button
            kind="first"
            disabled={!picked.path}
            onClick={() => {
              if (!offers.some((o) => o.path === picked.path)) setExtra([...extra, { path: picked.path, label: picked.label || picked.path }]);
              if (!folders.includes(picked.path)) toggle(picked.path);
              setPicking(false);
            }}
          >
            Look here too
          </Button>
        </div>
      </Sheet>
    </div>
  );
}

const tones = { certain: "moss", likely: "sea", possible: "ochre" } as const;

export function Certainty({ of }: { of: Candidate["certainty"] }) {
  return <Badge tone={tones[of]}>{of}</Badge>;
}

function WantedLine({ wanted, searched, on, onSelect }: { wanted: Wanted; searched: boolean; on: boolean; onSelect: () => void }) {
  const best = wanted.candidates[0];
  return (
    <li>
      <button type="button" aria-current={on} onClick={onSelect} className={`grid w-full grid-cols-[16px_minmax(0,1fr)_16px_minmax(0,1.1fr)] items-center gap-2.5 border-b border-hair px-[18px] py-1.5 text-left ${on ? "bg-seawash shadow-[inset_3px_0_0_var(--sea)]" : "hover:bg-band"}`}>
        <Mark state={wanted.gaps ? "missing" : wanted.state} />
        <span className="min-w-0">
          <span className="flex items-center gap-2">
            <span className="truncate font-medium" title={wanted.name}>
              {wanted.name}
            </span>
            {wanted.gaps ? <Badge>lacks {wanted.gaps}</Badge> : null}
            {wanted.use !== "used" ? <Badge>{wanted.use}</Badge> : null}
          </span>
          <span className="block truncate font-mono text-[11.5px] text-faint" title={wanted.expected}>
            {wanted.label}
          </span>
        </span>
        <span aria-hidden className="text-faint">
          →
        </span>
        {best ? (
          <span className="min-w-0">
            <span className="flex items-center gap-2">
              <span className="truncate font-medium" title={best.name}>
                {best.name}
              </span>
              <Certainty of={best.certainty} />
              {wanted.candidates.length > 1 ? <span className="text-[12px] whitespace-nowrap text-faint">and {wanted.candidates.length - 1} more</span> : null}
            </span>
            <span className="block truncate font-mono text-[11.5px] text-faint" title={best.path}>
              {best.label}
            </span>
          </span>
        ) : (
          <span className="text-faint">{searched ? "nothing like it where it looked" : "not looked for yet"}</span>
        )}
      </button>
    </li>
  );
}

function Repairs({ id, mend, onUndo, busy }: { id: number; mend: MendData; onUndo: (r: Repair) => void; busy: boolean }) {
  const [asking, setAsking] = useState(false);
  const [result, setResult] = useState<WriteResult | null>(null);
  const write = useAct(() => api.post<WriteResult>(`/projects/${id}/write`), (r) => {
    setResult(r);
    setAsking(false);
  });
  const shown = useMemo(() => [...mend.repairs].reverse(), [mend.repairs]);
  return (
    <section aria-label="Repairs" className="px-[18px] pt-4 pb-6">
      {shown.length > 0 ? (
        <Section title="Repairs in place" aside="kept here; the documents are as they were">
          <ul>
            {shown.map((r) => (
              <li key={r.id} className="grid grid-cols-[minmax(0,1fr)_16px_minmax(0,1fr)_auto] items-center gap-2 border-b border-hair py-1">
                <span className="truncate font-mono text-[12px] text-faint" title={r.from}>
                  {r.fromLabel}
                </span>
                <span aria-hidden className="text-faint">
                  →
                </span>
                <span className="min-w-0" title={r.to}>
                  <span className="block truncate font-mono text-[12px]">{r.toLabel}</span>
                  <span className="block truncate text-[11.5px] text-faint">
                    {r.certainty}: {r.reasons.join(", ")}
                    {r.live ? "" : " · nothing leans on it any more"}
                  </span>
                </span>
                <Button kind="small" disabled={busy} onClick={() => onUndo(r)}>
                  Undo
                </Button>
              </li>
            ))}
          </ul>
          {mend.writable.length > 0 ? (
            <div className="mt-3 flex items-center gap-3">
              <Button onClick={() => setAsking(true)}>Write them into {plural(mend.writable.length, "document")}</Button>
              <span className="text-[12px] text-faint">Not needed for a crate: it names the files where they will be.</span>
            </div>
          ) : null}
        </Section>
      ) : null}
      {result ? (
        <div role="status" className="mt-3 border-l-[3px] border-moss bg-mosswash px-3 py-2">
          {result.written.length === 0 ? <p>Nothing was written.</p> : null}
          {result.written.map((w) => (
            <p key={w.document} className="break-words">
              <b className="font-semibold">{w.document.split("/").at(-1)}</b>: {plural(w.mentions, "reference")} written. Its earlier state is kept as <span className="font-mono text-[12px]">{w.edition}</span>.
            </p>
          ))}
          {result.problems.map((p, i) => (
            <p key={i} className="text-rust">
              {p.path.split("/").at(-1)} {p.message}. {p.untouched} {p.do}
            </p>
          ))}
        </div>
      ) : null}
      <Confirm open={asking} onClose={() => setAsking(false)} title="Write the repairs into the documents?" act="Write them" busy={write.isPending} onAct={() => write.mutate(undefined)}>
        <p className="mb-2">An edition of each is kept first. These change on disk:</p>
        <ul className="mb-2">
          {mend.writable.map((d) => (
            <li key={d} className="font-mono text-[12px] break-words">
              {d}
            </li>
          ))}
        </ul>
        <Trouble error={write.error} />
      </Confirm>
    </section>
  );
}

