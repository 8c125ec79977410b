import { useState } from "react";

import { api } from "../api/client";
import { useAct } from "../api/queries";
import type { Stow, Wish } from "../api/types";
import { Section, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { bytes, plural } from "../shared/words";

/** dragged is the type under which rows of a ledger are carried. */
export const dragged = "application/x-boundcrate-berths";

/** Tree is the folders of the crate as it will be; files are dragged onto one to move them there. */
export function Tree({ id, stow }: { id: number; stow: Stow }) {
  const [over, setOver] = useState<string | null>(null);
  const wish = useAct((w: Wish) => api.put(`/projects/${id}/berths`, w));
  const shown = withParents(stow.folders);
  return (
    <Section title="Folders" aside={plural(stow.files, "file")}>
      <Trouble error={wish.error} onAway={wish.reset} />
      <ul aria-label="Folders of the crate">
        {shown.slice(0, most).map((f) => (
          <li
            key={f.folder}
            className={`flex items-baseline gap-2 py-0.5 ${over === f.folder ? "bg-seawash outline outline-sea" : ""}`}
            style={{ paddingLeft: f.folder === "" ? 0 : 12 * f.folder.split("/").length }}
            onDragOver={(e) => {
              if (!e.dataTransfer.types.includes(dragged)) return;
              e.preventDefault();
              setOver(f.folder);
            }}
            onDragLeave={() => setOver(null)}
            onDrop={(e) => {
              e.preventDefault();
              setOver(null);
              const keys = JSON.parse(e.dataTransfer.getData(dragged)) as string[];
              wish.mutate({ keys, folder: f.folder, name: null, stays: null, reset: false });
            }}
          >
            <span className="min-w-0 flex-1 truncate font-mono text-[12px]" {...tip(f.folder)}>
              {f.folder === "" ? "data" : f.folder.split("/").at(-1)}/
            </span>
            <span className="font-mono text-[12px]">{f.files.toLocaleString("en-GB")}</span>
            <span className="w-18 text-right font-mono text-[12px] text-faint">{bytes(f.bytes)}</span>
          </li>
        ))}
        {shown.length > most ? <li className="py-0.5 text-faint">and {shown.length - most} more folders</li> : null}
      </ul>
      <p className="mt-1 text-[12px] text-faint">Drag files of the list onto a folder to move them there.</p>
    </Section>
  );
}

const most = 100;

/** withParents puts the folders between in, so that it is a tree, and the top. */
function withParents(folders: Stow["folders"]): Stow["folders"] {
  const all = new Map(folders.map((f) => [f.folder, f]));
  for (const f of ["", ...folders.map((x) => x.folder)]) {
    for (let dir = f; ; dir = dir.includes("/") ? dir.slice(0, dir.lastIndexOf("/")) : "") {
      if (!all.has(dir)) all.set(dir, { folder: dir, files: 0, bytes: 0 });
      if (dir === "") break;
    }
  }
  return [...all.values()].sort((a, b) => (a.folder < b.folder ? -1 : a.folder > b.folder ? 1 : 0));
}
