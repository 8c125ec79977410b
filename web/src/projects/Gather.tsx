import { useState } from "react";
import { useNavigate } from "react-router";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { NewLoose } from "../api/types";
import { FolderPicker } from "../shared/FolderPicker";
import { Field } from "../shared/kit";
import { Button, Trouble } from "../shared/parts";

/** Gather begins a loose set: a project with no document, of the files in a folder. */
export function Gather({ onDone }: { onDone: () => void }) {
  const go = useNavigate();
  const [folder, setFolder] = useState("");
  const [title, setTitle] = useState("");
  const [author, setAuthor] = useState("");
  const [patterns, setPatterns] = useState("*.png, *.jpg");
  const make = useAct(
    (n: NewLoose) => acts.gather(n),
    (p) => void go(`/p/${p.id}/set`),
  );
  const field = (label: string, value: string, set: (v: string) => void) => (
    <label className="mt-2 block">
      <span className="text-[12px] text-faint">{label}</span>
      <Field className="w-full" value={value} onChange={(e) => set(e.target.value)} />
    </label>
  );
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate({ folder, files: [], title, author, note: "", patterns: patterns.split(",").map((p) => p.trim()) });
      }}
    >
      <h3 className="caps mb-1 text-[13px]">New loose set</h3>
      <p className="mb-1 text-[12px] text-faint">
        A project with no document: a night of pictures, masks, logs. Its list is saved in the folder as RO-Crate
        metadata.
      </p>
      <FolderPicker low onFolder={setFolder} />
      {field("title", title, setTitle)}
      {field("author", author, setAuthor)}
      {field("files, as *.png; **/*.png also looks into folders", patterns, setPatterns)}
      <Trouble error={make.error} />
      <div className="mt-2 flex gap-2">
        <Button
          kind="first"
          type="submit"
          className="flex-1"
          disabled={folder === "" || title.trim() === "" || make.isPending}
        >
          Gather the files
        </Button>
        <Button onClick={onDone}>Cancel</Button>
      </div>
    </form>
  );
}
