import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import { useAct, useProjectID } from "../api/queries";
import type { Edition, Keep as Answer, Restore } from "../api/types";
import { Station } from "../frame/Station";
import { Choose } from "../shared/Choose";
import { Confirm } from "../shared/Confirm";
import { useKeys } from "../shared/keys";
import { Asked, Button, Empty, Trouble } from "../shared/parts";
import { usePlace } from "../shared/place";
import { plural, when } from "../shared/words";
import { Backups, BackupSlip } from "./Backups";
import { EditionLine } from "./EditionLine";
import { EditionSlip } from "./EditionSlip";
import { Inside } from "./Inside";
import { KeepNow } from "./KeepNow";
import { byTime } from "./lanes";

/** Keep: the editions of a project's documents, and its backups. */
export function Keep() {
  const id = useProjectID();
  const { data, error } = useQuery(acts.kept(id));
  const inside = usePlace().get("inside");
  return (
    <Asked error={error} data={data} waiting="Loading what is kept.">
      {(k) => (inside ? <Inside id={id} path={inside} /> : <Kept id={id} k={k} />)}
    </Asked>
  );
}

function Kept({ id, k }: { id: number; k: Answer }) {
  const place = usePlace();
  const backups = place.get("view") === "backups";
  const selected = Number(place.get("edition"));
  const marked = Number(place.get("with"));
  const [asking, setAsking] = useState<Edition | null>(null);
  const restore = useAct(
    (r: Restore) => acts.restore(id, r),
    () => setAsking(null),
  );
  const lost = k.differs.some((d) => d.how !== "changed");
  const list = byTime(k.editions);
  const at = list.findIndex((e) => e.id === selected);
  const go = (n: number) => {
    const e = list[Math.max(0, Math.min(n, list.length - 1))];
    if (e && !backups) place.set({ edition: String(e.id) });
  };
  const now = (edition: number) => restore.mutate({ edition, only: [], into: "" });
  // What is gone or broken has nothing to lose: it comes back at once, the present state being kept first.
  const back = () => {
    const e = list[at];
    if (lost && (!e || e.id === k.current)) now(k.current);
    else if (e && (e.id !== k.current || k.differs.length > 0)) setAsking(e);
  };
  useKeys({
    j: () => go(at < 0 ? k.editions.length - 1 : at + 1),
    ArrowDown: () => go(at < 0 ? k.editions.length - 1 : at + 1),
    k: () => go(at < 0 ? k.editions.length - 1 : at - 1),
    ArrowUp: () => go(at < 0 ? k.editions.length - 1 : at - 1),
    z: k.editions.length > 0 && !backups ? back : undefined,
    x: at >= 0 ? () => place.set({ with: marked === selected ? "" : String(selected) }) : undefined,
    Escape: () => place.set({ edition: "", with: "" }),
  });
  const edition = list[at];
  return (
    <>
      <Station
        name="Keep"
        slipName={backups ? "Backups" : edition ? `Edition ${edition.id}` : "Keep an edition"}
        sheet={
          <>
            <div className="px-[18px] pt-3 pb-2">
              <div className="flex items-start justify-between gap-4">
                <div className="min-w-0">
                  <Says k={k} />
                </div>
                <Choose
                  label="Show"
                  value={backups ? "backups" : "editions"}
                  onChoose={(v) => place.set({ view: v === "backups" ? "backups" : "" })}
                  choices={[
                    { value: "editions", word: "editions" },
                    { value: "backups", word: "backups" },
                  ]}
                />
              </div>
              {lost ? (
                <Button
                  kind="smallFirst"
                  className="mt-1"
                  hint="z"
                  disabled={restore.isPending}
                  onClick={() => now(k.current)}
                >
                  Restore from edition {k.current}
                </Button>
              ) : null}
              <Trouble error={asking ? null : restore.error} />
              {restore.data ? (
                <p role="status" className="text-[12.5px] text-ink2">
                  {plural(restore.data.written.length, "document")} restored.
                  {restore.data.kept > 0 ? ` The state before is edition ${restore.data.kept}.` : ""}
                  {restore.data.outside.length > 0
                    ? ` Outside the project folder, not changed: ${restore.data.outside.join(", ")}.`
                    : ""}
                </p>
              ) : null}
            </div>
            {backups ? (
              <Backups k={k} />
            ) : k.editions.length === 0 ? (
              <Empty title="No edition yet">
                <p>
                  An edition is the state of all documents of the project together. Keep one on the right; it is stored
                  next to nothing again while the documents stay the same.
                </p>
              </Empty>
            ) : (
              <EditionLine
                list={k.editions}
                current={k.current}
                selected={selected}
                marked={marked}
                onSelect={(e) => place.set({ edition: e === selected ? "" : String(e) })}
              />
            )}
          </>
        }
        slip={
          backups ? (
            <BackupSlip id={id} k={k} />
          ) : edition ? (
            <EditionSlip
              key={edition.id}
              id={id}
              e={edition}
              current={k.current}
              marked={marked}
              onMark={(on) => place.set({ with: on ? String(edition.id) : "" })}
              onRestore={() => setAsking(edition)}
              stands={edition.id === k.current && k.differs.length === 0}
            />
          ) : (
            <KeepNow id={id} k={k} />
          )
        }
      />
      <Confirm
        open={asking !== null}
        onClose={() => setAsking(null)}
        title={`Restore edition ${asking?.id ?? ""}?`}
        act="Restore"
        busy={restore.isPending}
        onAct={() => asking && now(asking.id)}
      >
        <p>
          All {plural(asking?.documents.length ?? 0, "document")} of the project are written as they were on{" "}
          {asking ? when(asking.at) : ""}. The present state is kept first, so you can come back to it. Other files are
          not changed.
        </p>
        <Trouble error={restore.error} />
      </Confirm>
    </>
  );
}

/** Says tells at a glance which edition is current, and how the present differs from it. */
function Says({ k }: { k: Answer }) {
  const lost = k.differs.filter((d) => d.how !== "changed");
  return (
    <>
      <p className="text-[15px]">
        {k.editions.length === 0 ? (
          "Nothing is kept of this project yet."
        ) : lost.length > 0 ? (
          <b className="font-semibold text-rust">
            {lost.map((d) => `${d.path} ${d.how === "gone" ? "is gone" : "cannot be read"}`).join("; ")}.
          </b>
        ) : k.differs.length > 0 ? (
          <>
            Edition <b className="font-semibold">{k.current}</b> is current;{" "}
            <b className="font-semibold text-ochre">{plural(k.differs.length, "document")} changed since</b>.
          </>
        ) : (
          <>
            Edition <b className="font-semibold">{k.current}</b> is current:{" "}
            <b className="font-semibold text-moss">the documents are as it has them.</b>
          </>
        )}
      </p>
      {k.waits ? <p className="text-[12.5px] text-ochre">{k.waits}</p> : null}
      {k.damaged > 0 ? (
        <p className="text-[12.5px] text-rust">
          {plural(k.damaged, "line")} of the edition store cannot be read. The editions listed are not affected.
        </p>
      ) : null}
    </>
  );
}
