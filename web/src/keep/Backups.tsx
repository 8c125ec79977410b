import { useState } from "react";

import * as acts from "../api/acts";
import { useAct, useAppState } from "../api/queries";
import type { Keep, KeepSettings } from "../api/types";
import { Bar } from "../frame/Foot";
import { Acts } from "../frame/Station";
import { FolderPicker } from "../shared/FolderPicker";
import { Check, Field, Path, Size } from "../shared/kit";
import { Badge, Button, Empty, Section, Trouble } from "../shared/parts";
import { usePlace } from "../shared/place";
import { archive, count, plural, when } from "../shared/words";

/** Backups are the generations of a project, the newest first. */
export function Backups({ k }: { k: Keep }) {
  const place = usePlace();
  const chosen = place.get("generation");
  const b = k.backups;
  if (b.list.length === 0)
    return (
      <Empty title="No backup yet">
        <p>
          A backup is a whole crate of the project on another drive, proved complete. The next one shares what did not
          change with the one before, so it takes little more room. Choose a folder on the right.
        </p>
      </Empty>
    );
  return (
    <div className="min-h-0 flex-1 overflow-auto" tabIndex={0} role="group" aria-label="Backups">
      <div className="grid grid-cols-[minmax(0,1fr)_110px_92px_120px_120px] gap-3 border-y border-rule bg-band px-[18px] py-1 text-[11.5px] text-faint">
        <span>backup</span>
        <span>files</span>
        <span className="text-right">size</span>
        <span>verified</span>
        <span>test restore</span>
      </div>
      <ul>
        {b.list.map((g) => (
          <li key={g.path}>
            <button
              type="button"
              aria-pressed={chosen === g.path}
              onClick={() => place.set({ generation: chosen === g.path ? "" : g.path })}
              className={`grid w-full grid-cols-[minmax(0,1fr)_110px_92px_120px_120px] items-center gap-3 border-b border-hair px-[18px] py-1 text-left -outline-offset-2 ${chosen === g.path ? "bg-seawash" : "hover:bg-band"}`}
            >
              <span className="flex items-center gap-2">
                {when(g.at)}
                {g.complete ? (
                  <Badge tone="moss">complete</Badge>
                ) : g.elsewhere ? (
                  <Badge tone="ochre" why="Made by the command line or on another machine. A test restore tells.">
                    not tested
                  </Badge>
                ) : (
                  <Badge tone="rust">not complete</Badge>
                )}
                {g.harm > 0 ? <Badge tone="rust">{plural(g.harm, "file")} damaged</Badge> : null}
              </span>
              <span className="font-mono text-[12px]">{plural(g.files, "file")}</span>
              <Size of={g.bytes} />
              <span className="font-mono text-[11.5px] text-faint">{g.verified ? when(g.verified) : "never"}</span>
              <span className="font-mono text-[11.5px] text-faint">{g.restored ? when(g.restored) : "never"}</span>
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** BackupSlip makes backups, and verifies, tries and opens the chosen one. */
export function BackupSlip({ id, k }: { id: number; k: Keep }) {
  const place = usePlace();
  const { data: state } = useAppState();
  const g = k.backups.list.find((x) => x.path === place.get("generation"));
  const backup = useAct(() => acts.backup(id));
  const verify = useAct((path: string) => acts.verifyBackup(id, { path }));
  const dry = useAct((path: string) => acts.dryRestore(id, { path }));
  const job = state?.jobs.find((j) => j.project === id && ["backup", "verify", "dry-restore"].includes(j.kind));
  const busy = job?.state === "running";
  return (
    <>
      <h2 className="text-[22px]">{g ? `Backup of ${when(g.at)}` : "Backups"}</h2>
      {g ? <Path faint>{g.path}</Path> : null}
      {!g && k.backups.overdue ? <p className="text-ochre">{k.backups.overdue}.</p> : null}
      {!g && k.backups.fit >= 0 ? (
        <p className="text-[12px] text-faint">Room for about {count(k.backups.fit)} more like the last.</p>
      ) : null}
      {g ? (
        <Section title="In it and in the project">
          <p>See what it holds beside what is in the project now, and take back one file, some, or all.</p>
          <Button kind="small" className="mt-2" onClick={() => place.set({ inside: g.path })}>
            Look inside
          </Button>
        </Section>
      ) : (
        <>
          <Target id={id} k={k} />
          <FromCrate />
        </>
      )}
      <Trouble error={backup.error ?? verify.error ?? dry.error} />
      <Acts>
        {job ? (
          <div role="status" className="text-[12px] text-ink2">
            {busy ? (
              <span className="[&>svg]:h-2.5 [&>svg]:w-full">
                <Bar job={job} />
              </span>
            ) : null}
            {job.title}: {busy ? job.step : job.error || job.message}
          </div>
        ) : null}
        {g ? (
          <div className="grid grid-cols-2 gap-2">
            <Button disabled={busy} onClick={() => verify.mutate(g.path)}>
              Verify
            </Button>
            <Button disabled={busy} onClick={() => dry.mutate(g.path)}>
              Test restore
            </Button>
          </div>
        ) : k.backups.list.length > 0 ? (
          <Button disabled={busy} onClick={() => verify.mutate("")}>
            Verify all
          </Button>
        ) : null}
        <Button
          kind="first"
          disabled={busy || k.settings.backupTo === "" || !k.backups.there || backup.isPending}
          onClick={() => backup.mutate(undefined)}
        >
          {k.settings.backupTo !== "" && !k.backups.there
            ? `Connect ${k.backups.label.split("/")[0]} first`
            : "Back up now"}
        </Button>
      </Acts>
    </>
  );
}

/** FromCrate opens a crate, folder or archive, beside the project. */
function FromCrate() {
  const place = usePlace();
  const [crate, setCrate] = useState("");
  return (
    <details className="mt-3 shrink-0 border-t border-rule pt-2">
      <summary className="cursor-pointer">Take files or documents from a crate</summary>
      <p className="mt-1 mb-2 text-[12px] text-faint">
        A crate of this project that was sealed earlier, or one that somebody sent back.
      </p>
      <FolderPicker low onFolder={setCrate} onFile={(e) => setCrate(e.path)} files={(e) => archive.test(e.name)} />
      <Button kind="small" className="mt-2" disabled={crate === ""} onClick={() => place.set({ inside: crate })}>
        Look inside
      </Button>
    </details>
  );
}

/** Target is where backups go, and when they are made by themselves. */
function Target({ id, k }: { id: number; k: Keep }) {
  const set = useAct((s: KeepSettings) => acts.setKeep(id, s));
  const s = set.isPending ? set.variables : k.settings;
  const [choosing, setChoosing] = useState(s.backupTo === "");
  const [folder, setFolder] = useState("");
  return (
    <>
      <Section title="Folder" aside="on another drive than the project">
        {s.backupTo ? (
          <p className="flex items-center gap-2">
            <span className="min-w-0 flex-1">
              <Path full={s.backupTo}>{k.backups.label}</Path>
            </span>
            <Button kind="small" onClick={() => setChoosing(!choosing)}>
              Change
            </Button>
          </p>
        ) : null}
        {choosing ? (
          <>
            <FolderPicker makes low onFolder={setFolder} />
            <Button
              kind="small"
              className="mt-2"
              disabled={folder === "" || set.isPending}
              onClick={() => {
                set.mutate({ ...s, backupTo: folder });
                setChoosing(false);
              }}
            >
              Use this folder
            </Button>
          </>
        ) : null}
      </Section>
      <Section title="Automatic">
        <label className="flex items-center gap-2">
          <Check checked={s.backupAt} onChange={(e) => set.mutate({ ...s, backupAt: e.target.checked })} />
          after a day’s work
        </label>
        <p className="mt-1 text-[13px]">
          when documents changed and nothing was written for{" "}
          <Field
            low
            type="number"
            min={1}
            aria-label="Minutes without a change"
            className="w-16 text-right"
            key={`q${s.quiet}`}
            defaultValue={s.quiet}
            onBlur={(e) => Number(e.target.value) !== s.quiet && set.mutate({ ...s, quiet: Number(e.target.value) })}
          />{" "}
          minutes
        </p>
        <p className="mt-1 text-[13px]">
          Keep the last{" "}
          <Field
            low
            type="number"
            min={0}
            aria-label="Backups to keep"
            className="w-16 text-right"
            key={`k${s.keep}`}
            defaultValue={s.keep}
            onBlur={(e) => Number(e.target.value) !== s.keep && set.mutate({ ...s, keep: Number(e.target.value) })}
          />{" "}
          <span className="text-faint">(0: all)</span>
        </p>
      </Section>
      <Trouble error={set.error} />
    </>
  );
}
