import { useState } from "react";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { Edition, Restore, SetNote } from "../api/types";
import { Acts } from "../frame/Station";
import { Confirm } from "../shared/Confirm";
import { FolderPicker } from "../shared/FolderPicker";
import { Field, Path, Size } from "../shared/kit";
import { Button, Fact, Section, Trouble } from "../shared/parts";
import { bytes, plural, when } from "../shared/words";
import { Between } from "./Between";
import { made } from "./words";

/** EditionSlip is everything about one edition, and what can be done with it. */
export function EditionSlip({
  id,
  e,
  current,
  marked,
  onMark,
  onRestore,
  stands,
}: {
  id: number;
  e: Edition;
  current: number;
  marked: number;
  onMark: (on: boolean) => void;
  onRestore: () => void;
  /** it is what the documents say now */
  stands: boolean;
}) {
  const [note, setNote] = useState(e.note);
  const [copying, setCopying] = useState(false);
  const save = useAct((n: SetNote) => acts.setNote(id, n));
  const other = marked && marked !== e.id ? marked : e.from;
  return (
    <>
      <h2 className="text-[22px]">
        Edition {e.id}
        {e.id === current ? <span className="ml-2 text-[14px] text-sea">current</span> : null}
      </h2>
      <dl className="mb-2">
        <Fact name="kept">
          {when(e.at)}, {made[e.by]}
        </Fact>
        {e.from > 0 ? (
          <Fact name="from">
            edition {e.from}, line {e.line}
          </Fact>
        ) : null}
        <Fact name="uses">
          {plural(e.files, "file")}, {bytes(e.bytes)}
        </Fact>
        {e.sealed.map((s) => (
          <Fact key={s.label} name="sealed">
            {s.label}
            {s.sent.length > 0 ? `, sent to ${s.sent.filter(Boolean).join(", ") || "somebody"}` : ""}
          </Fact>
        ))}
      </dl>
      <label className="grid gap-1">
        <span className="text-[12px] text-faint">note</span>
        <textarea
          rows={3}
          value={note}
          onChange={(x) => setNote(x.target.value)}
          className="rounded-xs border border-rule bg-field px-2 py-1 text-ink"
        />
      </label>
      {note !== e.note ? (
        <p className="mt-1">
          <Button kind="small" disabled={save.isPending} onClick={() => save.mutate({ edition: e.id, note })}>
            Save the note
          </Button>
        </p>
      ) : null}
      <Trouble error={save.error} />
      {other > 0 ? <Between id={id} a={Math.min(other, e.id)} b={Math.max(other, e.id)} /> : null}
      <Section title="Documents" aside={String(e.documents.length)}>
        <ul>
          {e.documents.map((d) => (
            <li key={d.path} className="flex items-baseline gap-2 border-b border-hair py-0.5">
              <span className="min-w-0 flex-1">
                <Path>{d.path}</Path>
              </span>
              <Size of={d.bytes} faint />
            </li>
          ))}
        </ul>
        {e.outside > 0 ? (
          <p className="mt-1 text-[12px] text-faint">
            {plural(e.outside, "document")} outside the project folder {e.outside === 1 ? "was" : "were"} listed, not
            kept.
          </p>
        ) : null}
      </Section>
      <Acts>
        <div className="flex flex-wrap gap-2">
          <Button kind="small" hint="x" onClick={() => onMark(marked !== e.id)}>
            {marked === e.id ? "Do not compare with it" : "Compare with another"}
          </Button>
          <Button kind="small" onClick={() => setCopying(true)}>
            Save a copy…
          </Button>
        </div>
        <Button kind="first" hint="z" disabled={stands} onClick={onRestore}>
          {stands ? "The documents are as it has them" : "Restore this edition"}
        </Button>
      </Acts>
      {copying ? <Copy id={id} e={e} onClose={() => setCopying(false)} /> : null}
    </>
  );
}

/** Copy writes the documents of an edition into a new folder. */
function Copy({ id, e, onClose }: { id: number; e: Edition; onClose: () => void }) {
  const [folder, setFolder] = useState("");
  const [name, setName] = useState(`edition ${e.id}`);
  const copy = useAct((r: Restore) => acts.restore(id, r), onClose);
  return (
    <Confirm
      open
      onClose={onClose}
      title={`Save a copy of edition ${e.id}`}
      act="Save"
      busy={copy.isPending || folder === "" || name.trim() === ""}
      onAct={() => copy.mutate({ edition: e.id, only: [], into: `${folder}/${name.trim()}` })}
    >
      <p className="mb-2">Its documents are written into a new folder. The project is not changed.</p>
      <FolderPicker makes low onFolder={(p) => setFolder(p)} />
      <label className="mt-2 grid gap-1">
        <span className="text-[12px] text-faint">name of the new folder</span>
        <Field value={name} onChange={(x) => setName(x.target.value)} />
      </label>
      <Trouble error={copy.error} />
    </Confirm>
  );
}
