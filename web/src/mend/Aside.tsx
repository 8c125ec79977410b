import { useState } from "react";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { Mend, SetAside } from "../api/types";
import { Sheet } from "../shared/Confirm";
import { DialogFoot } from "../shared/kit";
import { Button, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural } from "../shared/words";

const whys: readonly { why: SetAside["why"]; word: string }[] = [
  { why: "later", word: "Will be supplied later" },
  { why: "rebuild", word: "Can be rebuilt by its program" },
  { why: "replaced", word: "Replaced by something else" },
  { why: "not-needed", word: "Not needed" },
];

/** PutAside takes a file out of the count, with a reason. */
export function PutAside({
  id,
  expected,
  name,
  onDone,
}: {
  id: number;
  expected: string;
  name: string;
  onDone: () => void;
}) {
  const [open, setOpen] = useState(false);
  const set = useAct(
    (s: SetAside) => acts.setAside(id, s),
    () => {
      setOpen(false);
      onDone();
    },
  );
  return (
    <>
      <Button kind="small" onClick={() => setOpen(true)}>
        Set aside
      </Button>
      <Sheet open={open} onClose={() => setOpen(false)} title={`Why set “${name}” aside?`}>
        <div className="px-5 pb-4">
          <p className="mb-3 text-ink2">It stays missing but is not counted. You can bring it back at any time.</p>
          <div className="flex flex-col gap-2">
            {whys.map((w) => (
              <Button
                key={w.why}
                disabled={set.isPending}
                onClick={() => set.mutate({ expected: [expected], why: w.why })}
              >
                {w.word}
              </Button>
            ))}
          </div>
          <Trouble error={set.error} />
        </div>
        <DialogFoot>
          <Button onClick={() => setOpen(false)}>Cancel</Button>
        </DialogFoot>
      </Sheet>
    </>
  );
}

/** SetAsides are the files that do not count for now. */
export function SetAsides({ id, aside }: { id: number; aside: Mend["aside"] }) {
  const [open, setOpen] = useState(false);
  const back = useAct((n: number) => acts.undoRepair(id, n));
  if (aside.length === 0) return null;
  return (
    <section
      aria-label="Set aside"
      tabIndex={0}
      className="max-h-[30%] shrink-0 overflow-auto border-t border-rule px-[18px] py-2 -outline-offset-2"
    >
      <div className="flex items-center gap-3">
        <h3 className="caps text-[13px]">{plural(aside.length, "file")} set aside</h3>
        <Button kind="small" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "Hide" : "Show"}
        </Button>
      </div>
      {open ? (
        <ul className="mt-2 border-t border-hair">
          {aside.map((a) => (
            <li key={a.id} className="flex items-center gap-3 border-b border-hair py-1">
              <span className="min-w-0 flex-1 truncate font-mono text-[12px]" {...tip(a.label)}>
                {a.label}
              </span>
              <span className="text-[12px] text-faint">{a.says}</span>
              <Button kind="small" disabled={back.isPending} onClick={() => back.mutate(a.id)}>
                Bring back
              </Button>
            </li>
          ))}
        </ul>
      ) : null}
      <Trouble error={back.error} />
    </section>
  );
}
