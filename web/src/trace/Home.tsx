import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { BringHome, Summary } from "../api/types";
import { Confirm } from "../shared/Confirm";
import { Check } from "../shared/kit";
import { Button, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { bytes, plural } from "../shared/words";

/** AskHome is whether one wants to hear of files that come from outside. */
export function AskHome({ summary }: { summary: Summary }) {
  const set = useAct((ask: boolean) => acts.askHome(summary.project.id, { ask }));
  return (
    <>
      <label className="mt-1.5 flex items-center gap-2 text-[12.5px]">
        <Check checked={summary.askHome} disabled={set.isPending} onChange={(e) => set.mutate(e.target.checked)} />
        ask when outside files are added
      </label>
      <Trouble error={set.error} />
    </>
  );
}

/** Home brings outside files into the project's folder, after it said which and where to. */
export function Home({ id }: { id: number }) {
  const [asking, setAsking] = useState(false);
  const { data: plan, error } = useQuery({
    ...acts.homePlan(id),
    enabled: asking,
  });
  const bring = useAct(
    (r: BringHome) => acts.bringHome(id, r),
    () => setAsking(false),
  );
  return (
    <>
      <Button kind="small" className="mt-2" onClick={() => setAsking(true)}>
        Copy outside files into project{" "}
      </Button>
      <Confirm
        open={asking}
        onClose={() => setAsking(false)}
        title="Copy outside files into the project?"
        act={plan ? `Copy ${plural(plan.files, "file")}` : "Copy"}
        busy={bring.isPending || !plan || plan.files === 0}
        onAct={() => plan && bring.mutate({ snapshot: plan.snapshot })}
      >
        <p>
          {plan
            ? `${plural(plan.files, "file")}, ${bytes(plan.bytes)}, will be copied to ${plan.folder} and read back. The documents are then changed to use the copies; an edition of each is kept first. The originals stay. Files of libraries and documents of other projects are not copied.`
            : "Finding outside files."}
        </p>
        <ul className="mt-2 max-h-52 overflow-auto" tabIndex={0} aria-label="Files to copy">
          {plan?.moves.map((m) => (
            <li key={m.to} className="border-b border-hair py-1 font-mono text-[11.5px]" {...tip(`${m.from}\n${m.to}`)}>
              <span className="block truncate text-faint">{m.from}</span>
              <span className="block truncate">→ {m.to.slice(plan.folder.length + 1)}</span>
            </li>
          ))}
        </ul>
        <Trouble error={error ?? bring.error} />
      </Confirm>
    </>
  );
}
