import { useState } from "react";

import * as acts from "../api/acts";
import { useAct, useAppState } from "../api/queries";
import type { Mend, Search } from "../api/types";
import { Sheet } from "../shared/Confirm";
import { FolderPicker } from "../shared/FolderPicker";
import { DialogFoot } from "../shared/kit";
import { Button, Chip, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural, count } from "../shared/words";

/**
 * LookHere says where to look first. The whole machine is never searched
 * unasked; the likeliest folders are chosen, so that one act begins it.
 */
export function LookHere({ id, mend }: { id: number; mend: Mend }) {
  const { data: state } = useAppState();
  // Where the drive index knows the missing names, and the project's own folder with the one above it: most
  // of what is lost was moved between neighbours.
  const known = mend.suggest.filter((s) => s.known && s.best);
  const likeliest = mend.suggest.filter((s) => s.best).map((s) => s.path);
  const [folders, setFolders] = useState<string[]>(mend.folders.length > 0 ? mend.folders : likeliest);
  const [picking, setPicking] = useState(false);
  const [picked, setPicked] = useState({ path: "", label: "" });
  const [extra, setExtra] = useState<{ path: string; label: string }[]>([]);
  const search = useAct((s: Search) => acts.search(id, s));
  const spell = useAct(() => acts.spell(id));
  const running = state?.jobs.find((j) => j.kind === "search" && j.project === id && j.state === "running");
  const offers: { path: string; label: string; why?: string }[] = [...mend.suggest, ...extra];
  for (const f of folders) if (!offers.some((o) => o.path === f)) offers.push({ path: f, label: f });
  const toggle = (p: string) => setFolders((f) => (f.includes(p) ? f.filter((x) => x !== p) : [...f, p]));
  return (
    <div className="border-b border-rule bg-band px-[18px] py-3">
      <p className="mb-2 text-[15px]">
        {mend.searched === 0 ? (
          <>
            <b className="font-semibold">Where should Bound Crate search?</b> The most likely folders are selected;
            change them as you like. Only certain, unambiguous matches are applied automatically.
          </>
        ) : (
          <>
            <b className="font-semibold">
              {count(mend.found)} of {plural(mend.looked, "file")} found
            </b>{" "}
            among {plural(mend.searched, "file")} searched. {mend.missing > 0 ? "Please check the rest." : ""}
          </>
        )}
      </p>
      <div className="flex items-end gap-3">
        <div role="group" aria-label="Folders to search" className="flex min-w-0 flex-1 flex-wrap items-center gap-2">
          {offers.map((s) => (
            <Chip key={s.path} on={folders.includes(s.path)} onClick={() => toggle(s.path)} why={s.why}>
              {s.label}
            </Chip>
          ))}
          <Button kind="small" onClick={() => setPicking(true)}>
            Add folder
          </Button>
        </div>
        <Button
          kind="first"
          disabled={folders.length === 0 || mend.missing === 0 || search.isPending || running !== undefined}
          onClick={() => search.mutate({ folders })}
        >
          {running ? "Searching" : mend.searched > 0 ? "Search again" : "Search these folders"}
        </Button>
      </div>
      {mend.searched === 0 && known.length > 0 ? (
        <p className="mt-2 text-[12px] text-faint">
          {known.map((s) => (
            <span key={s.path} className="block truncate">
              <span className="font-mono">{s.label}</span>: {s.why}
            </span>
          ))}
        </p>
      ) : null}
      {mend.loose.length > 0 ? (
        <div className="mt-2 flex items-center gap-3 border-l-[3px] border-sea pl-2 text-[13px]">
          <p
            {...tip(
              mend.loose
                .slice(0, 20)
                .map((r) => `${r.label} is called ${r.is}`)
                .join("\n"),
            )}
          >
            {plural(mend.loose.length, "file is", "files are")} found but spelled differently in the documents.
          </p>
          <Button kind="small" disabled={spell.isPending} onClick={() => spell.mutate(undefined)}>
            Spell {mend.loose.length === 1 ? "it" : "them"} exactly
          </Button>
        </div>
      ) : null}
      <Trouble error={search.error ?? spell.error} />
      <Sheet open={picking} onClose={() => setPicking(false)} title="Search this folder">
        <div className="px-5 pb-4">
          <FolderPicker onFolder={(path, label) => setPicked({ path, label })} />
        </div>
        <DialogFoot>
          <Button onClick={() => setPicking(false)}>Close</Button>
          <Button
            kind="first"
            disabled={!picked.path}
            onClick={() => {
              if (!offers.some((o) => o.path === picked.path))
                setExtra([...extra, { path: picked.path, label: picked.label || picked.path }]);
              if (!folders.includes(picked.path)) toggle(picked.path);
              setPicking(false);
            }}
          >
            Add this folder
          </Button>
        </DialogFoot>
      </Sheet>
    </div>
  );
}
