import type { ReactNode } from "react";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { Job } from "../api/types";
import { Button, Trouble, Waiting } from "../shared/parts";
import { Bar } from "./Foot";

/** Under shows work that runs in the middle of its page: how far it is, and its stop. */
export function Under({ job, says, children }: { job: Job; says: string; children?: ReactNode }) {
  const stop = useAct((id: string) => acts.stopJob(id));
  return (
    <div className="px-[18px] py-6">
      <h2 className="mb-1 text-[24px]">{job.title}</h2>
      <p className="mb-4 text-ink2">{says}</p>
      <div className="flex items-center gap-4">
        <div className="w-80 [&>svg]:h-3 [&>svg]:w-full">
          <Bar job={job} />
        </div>
        <Button disabled={stop.isPending} onClick={() => stop.mutate(job.id)}>
          Stop
        </Button>
      </div>
      {children ?? <p className="mt-3 text-faint">{job.step}</p>}
    </div>
  );
}

/** CameOf is the sheet of a page that begins one job: what it is for, the work, then what came of it. */
export function CameOf({
  job,
  says,
  stopped,
  before,
  answer,
}: {
  job: Job | undefined;
  says: string;
  stopped: string;
  before: ReactNode;
  answer: ReactNode;
}) {
  if (!job) return before;
  if (job.state === "running") return <Under job={job} says={says} />;
  if (job.state === "failed")
    return (
      <div className="p-6">
        <Trouble error={new Error(job.error)} />
      </div>
    );
  return answer ?? <Waiting what={job.state === "stopped" ? stopped : "Loading the result."} />;
}
