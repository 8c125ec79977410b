import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { MoveFolder, WantedRow } from "../api/types";
import { Sheet } from "../shared/Confirm";
import { FolderPicker } from "../shared/FolderPicker";
import { DialogFoot } from "../shared/kit";
import { Button, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural } from "../shared/words";

/** FolderMoved points all that is missing below a folder at another one, after saying how much of it is there. */
export function FolderMoved({ id, row, onDone }: { id: number; row: WantedRow; onDone: () => void }) {
  const [open, setOpen] = useState(false);
  const above = foldersAbove(row);
  if (above.length === 0) return null;
  return (
    <>
      <Button kind="small" onClick={() => setOpen(true)}>
        Folder moved
      </Button>
      <Sheet open={open} onClose={() => setOpen(false)} title="Where is the folder now?" wide>
        <Choice id={id} above={above} onClose={() => setOpen(false)} onDone={onDone} />
      </Sheet>
    </>
  );
}

interface ChoiceProps {
  id: number;
  above: readonly Folder[];
  onClose: () => void;
  onDone: () => void;
}

function Choice({ id, above, onClose, onDone }: ChoiceProps) {
  const [from, setFrom] = useState(above[0]?.path ?? "");
  const [to, setTo] = useState("");
  const { data: count, error } = useQuery({ ...acts.countMove(id, { from, to }), enabled: to !== "" });
  const move = useAct(
    (m: MoveFolder) => acts.move(id, m),
    () => {
      onClose();
      onDone();
    },
  );
  const there = count?.there ?? 0;
  return (
    <>
      <div className="px-5 pb-4">
        <fieldset className="mb-3">
          <legend className="mb-1 text-ink2">All files expected in</legend>
          {above.slice(0, mostAbove).map((f) => (
            <label key={f.path} className="flex items-center gap-2 py-0.5 font-mono text-[12px]" {...tip(f.path)}>
              <input type="radio" name="from" checked={f.path === from} onChange={() => setFrom(f.path)} />
              {f.label}
            </label>
          ))}
        </fieldset>
        <p className="mb-2 text-ink2">are now in</p>
        <FolderPicker onFolder={setTo} />
        <p className="mt-3 min-h-10" role="status">
          {to === "" ? (
            <span className="text-faint">Open the folder that holds them.</span>
          ) : count ? (
            <>
              <b className="font-semibold">
                {there} of {plural(count.of, "missing file")}
              </b>{" "}
              would be found.
              {count.lacking.length > 0 ? (
                <span className="text-faint">
                  {" "}
                  Not found: {count.lacking.join(", ")}
                  {count.of - there > count.lacking.length ? "and others" : ""}.
                </span>
              ) : null}
            </>
          ) : null}
        </p>
        <Trouble error={error ?? move.error} />
      </div>
      <DialogFoot>
        <Button onClick={onClose}>Cancel</Button>
        <Button kind="first" disabled={there === 0 || move.isPending} onClick={() => move.mutate({ from, to })}>
          Relink {plural(there, "file")}
        </Button>
      </DialogFoot>
    </>
  );
}

/** How many of them can be chosen. */
const mostAbove = 5;

interface Folder {
  path: string;
  label: string;
}

/** foldersAbove are the folders that a file is expected in, the nearest first, as far as their labels go. */
function foldersAbove(row: WantedRow): Folder[] {
  const path = row.key.split("/").slice(0, -1);
  const label = row.label.split("/");
  return label.map((_, i) => ({
    path: path.slice(0, path.length - i).join("/"),
    label: label.slice(0, label.length - i).join("/"),
  }));
}
