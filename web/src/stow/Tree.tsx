import { useState } from "react";

import type { Stow } from "../api/types";
import { Count, Size } from "../shared/kit";
import { Section, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural } from "../shared/words";
import type { Selection } from "../ledger/selection";
import { useWishes } from "./wishes";

/** dragged is the type under which rows of a ledger are carried. */
export const dragged = "application/x-boundcrate-berths";

/** Tree is the folders of the crate as it will be; files are dragged onto one to move them there. */
export function Tree({ id, stow }: { id: number; stow: Stow }) {
  const [over, setOver] = useState<string | null>(null);
  const { say, error, forget } = useWishes(id);
  const shown = withParents(stow.folders);
  return (
    <Section title="Folders" aside={plural(stow.files, "file")}>
      <Trouble error={error} onAway={forget} />
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
              const of = JSON.parse(e.dataTransfer.getData(dragged)) as Selection;
              say(of, { folder: f.folder });
            }}
          >
            <span className="min-w-0 flex-1 truncate font-mono text-[12px]" {...tip(f.folder)}>
              {f.folder === "" ? "data" : f.folder.split("/").at(-1)}/
            </span>
            <Count of={f.files} />
            <Size of={f.bytes} faint />
          </li>
        ))}
        {shown.length > most ? <li className="py-0.5 text-faint">and {shown.length - most} more folders</li> : null}
      </ul>
      <p className="mt-1 text-[12px] text-faint">Drag files from the list onto a folder to move them.</p>
    </Section>
  );
}

const most = 100;

/** withParents makes a tree of the folders: each counts what is below it too. */
function withParents(folders: Stow["folders"]): Stow["folders"] {
  const all = new Map([["", { folder: "", files: 0, bytes: 0 }]]);
  for (const f of folders)
    for (let dir = f.folder; ; dir = dir.includes("/") ? dir.slice(0, dir.lastIndexOf("/")) : "") {
      const was = all.get(dir) ?? { folder: dir, files: 0, bytes: 0 };
      all.set(dir, { folder: dir, files: was.files + f.files, bytes: was.bytes + f.bytes });
      if (dir === "") break;
    }
  return [...all.values()].sort((a, b) => (a.folder < b.folder ? -1 : a.folder > b.folder ? 1 : 0));
}
