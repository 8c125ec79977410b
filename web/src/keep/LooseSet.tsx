import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import { query } from "../api/client";
import { useAct, useProjectID } from "../api/queries";
import type { LooseFile, LooseGroup, LooseSet as Answer, SetLoose } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { FolderPicker } from "../shared/FolderPicker";
import { Field, Path } from "../shared/kit";
import { Asked, Badge, Button, Section, Trouble } from "../shared/parts";
import { bytes, plural } from "../shared/words";

/** LooseSet: what was gathered, by group, with the new files of its patterns. */
export function LooseSet() {
  const id = useProjectID();
  const { data, error } = useQuery(acts.looseSet(id));
  return (
    <Asked error={error} data={data} waiting="Loading the set.">
      {(s) => <Shown key={s.is} id={id} s={s} />}
    </Asked>
  );
}

/** asked is a set as it is written: all of it, but what somebody changes. */
const asked = (s: Answer, groups: readonly LooseGroup[] = s.groups): SetLoose => ({
  title: s.title,
  author: s.author,
  note: s.note,
  is: s.is,
  groups: groups.map((g) => ({ name: g.name, patterns: g.patterns, files: g.files.map((f) => f.path) })),
});

function Shown({ id, s }: { id: number; s: Answer }) {
  const [selected, setSelected] = useState("");
  const set = useAct((r: SetLoose) => acts.setLoose(id, r));
  const change = (groups: LooseGroup[]) => set.mutate(asked(s, groups));
  const files = s.groups.flatMap((g) => g.files);
  const fresh = s.groups.reduce((n, g) => n + g.new.length, 0);
  const group = s.groups.find((g) => g.files.some((f) => f.path === selected));
  const file = group?.files.find((f) => f.path === selected);
  return (
    <Station
      name="Loose set"
      slipName={file ? "The file" : "The set"}
      sheet={
        <div className="min-h-0 flex-1 overflow-auto px-[18px] py-3" tabIndex={0} role="group" aria-label="The set">
          <h2 className="text-[24px]">{s.title}</h2>
          <p className="text-ink2">
            {[s.author, plural(files.length, "file"), bytes(files.reduce((n, f) => n + f.bytes, 0))]
              .filter(Boolean)
              .join(" · ")}
          </p>
          {fresh > 0 ? (
            <p className="mt-2">
              <b className="font-semibold text-ochre">{plural(fresh, "new file")}</b> in the folders of the set.{" "}
              <Button
                kind="smallFirst"
                disabled={set.isPending}
                onClick={() => change(s.groups.map((g) => ({ ...g, files: [...g.files, ...g.new] })))}
              >
                Add {fresh === 1 ? "it" : "them"}
              </Button>
            </p>
          ) : null}
          <Trouble error={set.error} />
          {s.groups.map((g) =>
            g.files.length + g.new.length > 0 ? (
              <Section
                key={g.name}
                title={g.name || (s.groups.length > 1 ? "in no group" : "files")}
                aside={g.patterns.join("  ")}
              >
                <ul className="grid grid-cols-[repeat(auto-fill,minmax(150px,1fr))] gap-3">
                  {g.files.map((f) => (
                    <Cell
                      key={f.path}
                      f={f}
                      on={f.path === selected}
                      onClick={() => setSelected(f.path === selected ? "" : f.path)}
                    />
                  ))}
                  {g.new.map((f) => (
                    <Cell key={f.path} f={f} fresh on={false} />
                  ))}
                </ul>
              </Section>
            ) : null,
          )}
        </div>
      }
      slip={
        file && group ? (
          <FileSlip
            s={s}
            group={group}
            file={file}
            busy={set.isPending}
            onChange={change}
            onAway={() => setSelected("")}
          />
        ) : (
          <SetSlip s={s} busy={set.isPending} onSet={(r) => set.mutate(r)} />
        )
      }
    />
  );
}

const picture = /\.(png|jpe?g|gif|webp|bmp|svg)$/i;

/** Cell is a file as on a contact sheet; one that is new cannot be chosen yet. */
function Cell({ f, on, fresh, onClick }: { f: LooseFile; on: boolean; fresh?: boolean; onClick?: () => void }) {
  const inside = (
    <>
      <span className="grid h-24 place-items-center overflow-hidden bg-band">
        {f.there && picture.test(f.name) ? (
          <img src={query("/api/media", { path: f.path })} alt="" loading="lazy" className="max-h-24 object-contain" />
        ) : (
          <span className="font-mono text-[12px] text-faint">{f.name.split(".").at(-1)}</span>
        )}
      </span>
      <Path full={f.name}>{f.name.split("/").at(-1) ?? ""}</Path>
      <span className="flex font-mono text-[11.5px] text-faint">
        {fresh ? <Badge>new</Badge> : f.there ? bytes(f.bytes) : <Badge tone="rust">missing</Badge>}
      </span>
    </>
  );
  return (
    <li>
      {onClick ? (
        <button
          type="button"
          aria-pressed={on}
          onClick={onClick}
          className={`block w-full border p-1 text-left ${on ? "border-sea bg-seawash" : "border-rule hover:border-ink"}`}
        >
          {inside}
        </button>
      ) : (
        <div className="border border-dashed border-ochre p-1">{inside}</div>
      )}
    </li>
  );
}

/** FileSlip moves a file within the set, or takes it out of it. */
function FileSlip({
  s,
  group,
  file,
  busy,
  onChange,
  onAway,
}: {
  s: Answer;
  group: LooseGroup;
  file: LooseFile;
  busy: boolean;
  onChange: (groups: LooseGroup[]) => void;
  onAway: () => void;
}) {
  const [name, setName] = useState("");
  const at = group.files.indexOf(file);
  const without = s.groups.map((g) => ({ ...g, files: g.files.filter((f) => f !== file) }));
  const moved = (to: number) => {
    const files = group.files.filter((f) => f !== file);
    files.splice(to, 0, file);
    onChange(s.groups.map((g) => (g === group ? { ...g, files } : g)));
  };
  const into = (to: string) => {
    const known = without.some((g) => g.name === to);
    const all = known ? without : [{ name: to, patterns: [], files: [], new: [] }, ...without];
    onChange(all.map((g) => (g.name === to ? { ...g, files: [...g.files, file] } : g)));
  };
  return (
    <>
      <h2 className="text-[20px] break-words">{file.name.split("/").at(-1)}</h2>
      <Path faint>{file.path}</Path>
      <Section title="Order">
        <div className="flex gap-2">
          <Button kind="small" disabled={busy || at === 0} onClick={() => moved(at - 1)}>
            Earlier
          </Button>
          <Button kind="small" disabled={busy || at === group.files.length - 1} onClick={() => moved(at + 1)}>
            Later
          </Button>
        </div>
      </Section>
      <Section title="Group" aside={group.name || "none"}>
        <div className="flex flex-wrap gap-2">
          {s.groups
            .filter((g) => g !== group)
            .map((g) => (
              <Button key={g.name} kind="small" disabled={busy} onClick={() => into(g.name)}>
                Move to {g.name || "no group"}
              </Button>
            ))}
        </div>
        <form
          className="mt-2 flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            into(name.trim());
          }}
        >
          <Field
            low
            className="min-w-0 flex-1"
            aria-label="New group"
            placeholder="new group"
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
          <Button kind="small" type="submit" disabled={busy || name.trim() === ""}>
            Move there
          </Button>
        </form>
      </Section>
      <Acts>
        <Button
          disabled={busy}
          onClick={() => {
            onChange(without);
            onAway();
          }}
        >
          Take it out of the set
        </Button>
      </Acts>
    </>
  );
}

/** SetSlip is the set's own title, author, note and patterns, and adds files by hand. */
function SetSlip({ s, busy, onSet }: { s: Answer; busy: boolean; onSet: (r: SetLoose) => void }) {
  const loose = s.groups.find((g) => g.name === "");
  const [title, setTitle] = useState(s.title);
  const [author, setAuthor] = useState(s.author);
  const [note, setNote] = useState(s.note);
  const [patterns, setPatterns] = useState(loose?.patterns.join(", ") ?? "");
  const save = () => {
    const list = patterns.split(",").map((p) => p.trim());
    const groups = s.groups.map((g) => (g.name === "" ? { ...g, patterns: list.filter((p) => p !== "") } : g));
    onSet({ ...asked(s, groups), title, author, note });
  };
  const add = (path: string) =>
    onSet(
      asked(
        s,
        s.groups.map((g) =>
          g.name === "" ? { ...g, files: [...g.files, { path, name: path, bytes: 0, there: true }] } : g,
        ),
      ),
    );
  const have = s.groups.flatMap((g) => g.files.map((f) => f.path));
  return (
    <>
      <h2 className="text-[22px]">The set</h2>
      {[
        { word: "title", value: title, set: setTitle },
        { word: "author", value: author, set: setAuthor },
        { word: "new files are those that match", value: patterns, set: setPatterns },
      ].map((f) => (
        <label key={f.word} className="mt-2 block">
          <span className="text-[12px] text-faint">{f.word}</span>
          <Field className="w-full" value={f.value} onChange={(e) => f.set(e.target.value)} />
        </label>
      ))}
      <label className="mt-2 grid gap-1">
        <span className="text-[12px] text-faint">note</span>
        <textarea
          rows={4}
          value={note}
          onChange={(e) => setNote(e.target.value)}
          className="rounded-xs border border-rule bg-field px-2 py-1 text-ink"
        />
      </label>
      <Section title="Add a file">
        <FolderPicker low chosen={have} files={(e) => !have.includes(e.path)} onFile={(e) => add(e.path)} />
      </Section>
      <Acts>
        <p className="text-[12px] text-faint">Saved in the folder as RO-Crate metadata. An edition is kept first.</p>
        <Button kind="first" disabled={busy || title.trim() === ""} onClick={save}>
          Save
        </Button>
      </Acts>
    </>
  );
}
