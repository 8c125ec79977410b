import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import { choosing, useAct, useAppState, useChoices } from "../api/queries";
import type { Destination, Drive, SealRequest, Stow, StowOptions, Summary } from "../api/types";
import { Acts } from "../frame/Station";
import { Choose } from "../shared/Choose";
import { Confirm } from "../shared/Confirm";
import { FolderPicker } from "../shared/FolderPicker";
import { Field } from "../shared/kit";
import { Button, Chip, Section, Trouble } from "../shared/parts";
import { bytes, plural, timeLeft } from "../shared/words";
import { Since } from "./Since";

const carriers = [
  ["", "folder"],
  [".zip", "ZIP"],
  [".tar", "TAR"],
  [".tar.gz", "TAR, gzip"],
  [".tar.zst", "TAR, zstd"],
] as const;

type ListKind = StowOptions["lists"][number];

const listNames = [
  [
    "ro-crate",
    "RO-Crate",
    "Metadata for archives and repositories (RO-Crate 1.1): every file with size, type and SHA-256.",
  ],
  ["mhl", "hash list", "A media hash list (ASC MHL 2.0), as used for camera and sound originals."],
] as const;

/** Lists are those that others read the crate by. */
function Lists({ id, lists }: { id: number; lists: readonly ListKind[] }) {
  const set = useChoices(id);
  return listNames.map(([kind, word, why]) => (
    <Chip
      key={kind}
      on={lists.includes(kind)}
      onClick={() => set.mutate({ lists: lists.includes(kind) ? lists.filter((k) => k !== kind) : [...lists, kind] })}
      why={why}
    >
      add {word}
    </Chip>
  ));
}

/** Extras are what the crate gets besides, and how it is parted. */
function Extras({ id, options: o, archived }: { id: number; options: StowOptions; archived: boolean }) {
  const set = useChoices(id);
  return (
    <>
      <div className="mt-2 flex flex-wrap items-center gap-2 text-[12px] text-faint">
        <Chip
          on={o.sha512}
          onClick={() => set.mutate({ sha512: !o.sha512 })}
          why="Adds SHA-512 manifests beside SHA-256, where the receiver requires them. Sealing takes longer."
        >
          add SHA-512
        </Chip>
        <Lists id={id} lists={o.lists} />
        {archived ? (
          <Kept
            before="parts of at most"
            after="MB"
            name="Megabytes of each part at most"
            value={o.parts > 0 ? String(o.parts / 1e6) : ""}
            empty="no limit"
            className="w-18 text-right"
            onChange={(v) => set.mutate({ parts: Math.round(Number(v.replace(",", ".")) * 1e6) || 0 })}
          />
        ) : null}
      </div>
      <Trouble error={set.error} />
    </>
  );
}

/** Fits says whether the crate can stand at the place, and what sealing takes there. */
function Fits({ there }: { there: Destination }) {
  if (!there.ok) return <Trouble error={new Error(there.why)} />;
  return (
    <p className="mt-3 text-[12px] text-ink2">
      <span className="font-mono break-words">{there.label}</span>
      <br />
      needs {bytes(there.needs)}, {bytes(there.free)} free
      {there.again ? "; replaces the earlier crate there once the new one is complete" : ""}
      <Again to={there} />
    </p>
  );
}

/** Again says what of an earlier crate at the place stands, before it is sealed again. */
function Again({ to }: { to: Destination }) {
  if (to.unshared)
    return (
      <span className="mt-1 block text-ink">
        This drive cannot share unchanged files with the earlier crate: all of it is copied and read back.
      </span>
    );
  if (to.stands.files === 0) return null;
  return (
    <span className="mt-1 block text-ink">
      {to.copies.files === 0
        ? "Nothing changed: "
        : `${plural(to.copies.files, "file")}, ${bytes(to.copies.bytes)} will be copied; `}
      {plural(to.stands.files, "file")}, {bytes(to.stands.bytes)} {to.stands.files === 1 ? "is" : "are"} there already.
      Everything is read back{to.seconds > 0 ? `, about ${timeLeft(to.seconds)}` : ""}.
    </span>
  );
}

/** Where is the slip of Seal: where the crate goes, in what form, for whom. */
export function Where({
  id,
  stow,
  summary,
  busy,
  again,
  ended,
}: {
  id: number;
  stow: Stow;
  summary: Summary;
  busy: boolean;
  again: boolean;
  /** the application ended while it was sealed */
  ended: boolean;
}) {
  const { data: state } = useAppState();
  const was = stow.out;
  const forms: readonly (readonly [string, string])[] = stow.oneFile
    ? [...carriers, [stow.oneFile, `one file (${stow.oneFile})`]]
    : carriers;
  const ending = forms.map(([e]) => e).find((e) => e !== "" && was.endsWith(e)) ?? "";
  const home = summary.project.root.split("/").slice(0, -1).join("/");
  const slash = was.lastIndexOf("/");
  const [dir, setDir] = useState(was ? was.slice(0, slash) : proposed(state?.drives ?? [], home, stow.bytes));
  const [name, setName] = useState(
    was ? was.slice(slash + 1, was.length - ending.length) : `${summary.project.name} crate`,
  );
  const [carrier, setCarrier] = useState<string>(ending);
  const [note, setNote] = useState(stow.note);
  const [asking, setAsking] = useState(false);
  const [since, setSince] = useState("");
  const out = dir && name.trim() ? `${dir}/${name.trim()}${carrier}` : "";
  const { data: there } = useQuery({
    ...acts.destination(id, { out }),
    enabled: out !== "",
  });
  const o = stow.options;
  const set = useChoices(id);
  const seal = useAct((r: SealRequest) => acts.seal(id, r), undefined, choosing(id));
  return (
    <>
      <h2 className="text-[22px]">Destination</h2>
      <Section title="Folder" aside="outside the project folder">
        <FolderPicker makes start={dir} onFolder={(p) => setDir(p)} low />
      </Section>
      <Section title="Name and format">
        <Field
          aria-label="Name of the crate"
          className="w-full"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <div className="mt-2">
          <Choose
            label="Form"
            value={carrier || "folder"}
            onChoose={(v) => setCarrier(v === "folder" ? "" : v)}
            choices={forms.map(([ending, word]) => ({ value: ending || "folder", word }))}
          />
        </div>
        <Extras id={id} options={stow.options} archived={carrier !== ""} />
      </Section>
      <Since id={id} since={since} onSince={setSince} />
      <Section title="Note for the recipient">
        <textarea
          aria-label="Note"
          className="h-16 w-full resize-none rounded-xs border border-rule bg-field px-2 py-1 text-ink"
          value={note}
          onChange={(e) => setNote(e.target.value)}
          placeholder="Included in READ ME.txt as written."
        />
        <div className="mt-1 grid grid-cols-2 gap-2 text-[12px] text-faint">
          <Kept
            before="for"
            name="Recipient"
            value={o.for}
            className="min-w-0 flex-1"
            onChange={(v) => set.mutate({ for: v })}
          />
          <Kept
            before="from"
            name="Sender"
            value={o.from}
            className="min-w-0 flex-1"
            onChange={(v) => set.mutate({ from: v })}
          />
        </div>
      </Section>
      {there ? <Fits there={there} /> : null}
      <Trouble error={seal.error} />
      <Acts>
        <Button
          kind="first"
          disabled={busy || seal.isPending || !there?.ok}
          onClick={() =>
            there?.same ? setAsking(true) : seal.mutate({ snapshot: stow.snapshot, out, note, since, despite: false })
          }
        >
          {busy ? "Sealing" : ended && carrier === "" ? "Go on sealing" : again || ended ? "Seal again" : "Seal crate"}
        </Button>
      </Acts>
      <Confirm
        open={asking}
        onClose={() => setAsking(false)}
        title="An archive on the project’s own drive?"
        act="Seal there anyway"
        onAct={() => {
          setAsking(false);
          seal.mutate({ snapshot: stow.snapshot, out, note, since, despite: true });
        }}
      >
        <p>
          This crate is suitable as an archive, but it would be on the project’s own drive. If that drive fails, both
          are lost. Choose another drive for a backup.
        </p>
      </Confirm>
    </>
  );
}

/**
 * proposed is the drive that a first crate goes to: not the project's own, where a crate is lost with it,
 * but the one with the most room, if it fits; else the project's own.
 */
function proposed(drives: readonly Drive[], home: string, needs: number): string {
  const own = (d: Drive) => home === d.dir || home.startsWith(`${d.dir}/`);
  const others = drives.filter(
    (d) => d.connected && !d.silent && !own(d) && d.free >= needs && d.kind !== "optical" && d.kind !== "synced",
  );
  return (others.sort((a, b) => b.free - a.free)[0] ?? drives.find((d) => d.connected && own(d)))?.dir ?? "";
}

/** Kept is a choice that is typed; leaving it or Enter keeps it. */
function Kept({
  before,
  after,
  name,
  value,
  empty = "",
  className,
  onChange,
}: {
  before?: string;
  after?: string;
  name: string;
  value: string;
  empty?: string;
  className: string;
  onChange: (v: string) => void;
}) {
  const [text, setText] = useState(value);
  const [was, setWas] = useState(value);
  if (was !== value) {
    setWas(value);
    setText(value);
  }
  const field = (
    <input
      aria-label={name}
      value={text}
      placeholder={empty}
      onChange={(e) => setText(e.target.value)}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      onBlur={() => text.trim() !== value && onChange(text.trim())}
      className={`rounded-xs border border-rule bg-field px-1.5 py-0.5 text-ink ${className}`}
    />
  );
  return (
    <label className="flex min-w-0 items-center gap-1.5">
      {before} {field} {after}
    </label>
  );
}
