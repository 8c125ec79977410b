import { useState } from "react";

import * as acts from "../api/acts";
import { tries } from "../api/client";
import { useAct } from "../api/queries";
import type { Candidate, Choose, Entry } from "../api/types";
import { Sheet } from "../shared/Confirm";
import { FolderPicker } from "../shared/FolderPicker";
import { DialogFoot, Path } from "../shared/kit";
import { Button, Trouble } from "../shared/parts";

/** Another lets a person point a file that lies outside the project at another one. */
export function Another({ id, expected, name }: { id: number; expected: string; name: string }) {
  const [open, setOpen] = useState(false);
  const [tried, setTried] = useState<Candidate | null>(null);
  const close = () => {
    setOpen(false);
    setTried(null);
  };
  const choose = useAct(
    (c: Choose) => (c.try ? tries(acts.choose(id, c)) : acts.choose(id, c)),
    (out) => {
      if (out.applied) close();
      else setTried(out.candidate);
    },
  );
  const doubtful = tried?.doubtful ?? false;
  return (
    <>
      <Button onClick={() => setOpen(true)}>Use another file</Button>
      <Sheet open={open} onClose={close} title={`Which file should stand for “${name}”?`} wide>
        <div className="px-5 pb-4">
          <FolderPicker
            files={(e: Entry) => !e.folder}
            onFile={(e) => choose.mutate({ expected, path: e.path, try: true, despite: false })}
          />
          {tried ? (
            <div className="mt-3" role="status">
              <Path full={tried.path}>{tried.name}</Path>
              <p className="text-ink2">{tried.reasons.join(", ")}</p>
              {tried.warnings.map((w) => (
                <p key={w} className="text-rust">
                  {w}
                </p>
              ))}
            </div>
          ) : null}
          <Trouble error={choose.error} />
        </div>
        <DialogFoot>
          <Button onClick={close}>Cancel</Button>
          <Button
            kind={doubtful ? "plain" : "first"}
            disabled={tried === null || choose.isPending}
            onClick={() => tried && choose.mutate({ expected, path: tried.path, try: false, despite: doubtful })}
          >
            {doubtful ? "Use this file anyway" : "Use this file"}
          </Button>
        </DialogFoot>
      </Sheet>
    </>
  );
}
