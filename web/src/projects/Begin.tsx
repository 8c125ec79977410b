import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { Begin as Request, Begun } from "../api/types";
import { Choose } from "../shared/Choose";
import { FolderPicker } from "../shared/FolderPicker";
import { Field } from "../shared/kit";
import { Button, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";

/** Begin makes the folders of a new project, for the documents that programs will save there. */
export function Begin({ onDone }: { onDone: () => void }) {
  const { data, error } = useQuery(acts.templates());
  const [which, setWhich] = useState("0");
  const [folder, setFolder] = useState("");
  const [name, setName] = useState("");
  const [made, setMade] = useState<Begun | null>(null);
  const make = useAct((r: Request) => acts.begin(r), setMade);
  const one = data?.list[Number(which)];
  if (made)
    return (
      <div role="status" className="border-l-[3px] border-moss bg-mosswash px-3 py-2">
        <p className="break-words">
          <b className="font-semibold">{made.label}</b> was created. Save the document in it, then open it here.
        </p>
        <Button kind="small" className="mt-2" onClick={onDone}>
          OK
        </Button>
      </div>
    );
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate({ template: Number(which), folder, name });
      }}
    >
      <h3 className="caps mb-1 text-[13px]">New project folder</h3>
      {data && data.list.length > 1 ? (
        <Choose
          label="Folder template"
          value={which}
          onChoose={setWhich}
          choices={data.list.map((t, i) => ({ value: String(i), word: t.title }))}
        />
      ) : null}
      <p className="mb-1 text-[12px] text-faint" {...tip(data ? `your own templates are in ${data.at}` : undefined)}>
        {one ? `With ${one.folders.join(", ")}and a read-me file.` : ""} {data?.odd}
      </p>
      <FolderPicker makes low onFolder={setFolder} />
      <label className="mt-2 block">
        <span className="text-[12px] text-faint">name</span>
        <Field className="w-full" value={name} onChange={(e) => setName(e.target.value)} />
      </label>
      <Trouble error={error ?? make.error} />
      <div className="mt-2 flex gap-2">
        <Button
          type="submit"
          kind="first"
          className="flex-1"
          disabled={!folder || name.trim() === "" || make.isPending}
        >
          Create folders
        </Button>
        <Button onClick={onDone}>Cancel</Button>
      </div>
    </form>
  );
}
