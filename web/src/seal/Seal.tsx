import { useAppState, useProjectID, useSealed, useStow, useSummary } from "../api/queries";
import type { Job } from "../api/types";
import { Station } from "../frame/Station";
import { Under } from "../frame/Under";
import { Strip } from "../recipes/Strip";
import { Trouble, Waiting } from "../shared/parts";
import { bytes, count, exact, plural, timeLeft } from "../shared/words";
import { Ready } from "./Ready";
import { Where } from "./Where";

/** Seal: make it, and prove it. */
export function Seal() {
  const id = useProjectID();
  const { data: summary } = useSummary(id);
  const { data: stow, error } = useStow(id);
  const { data: sealed } = useSealed(id);
  const { data: state } = useAppState();
  const job = state?.jobs.find((j) => j.kind === "seal" && j.project === id);
  let sheet;
  if (error)
    sheet = (
      <div className="p-6">
        <Trouble error={error} />
      </div>
    );
  else if (!stow || !sealed || !summary) sheet = <Waiting what="Loading." />;
  else if (job?.state === "running")
    sheet = (
      <Under
        job={job}
        says="Every byte is copied once and read back once. You can leave this page; the work continues."
      >
        <Pace job={job} />
      </Under>
    );
  else
    sheet = (
      <>
        <Strip id={id} stow={stow} />
        <Ready summary={summary} stow={stow} sealed={sealed} job={job} />
      </>
    );
  return (
    <Station
      name="Seal"
      slipName="Destination"
      sheet={sheet}
      slip={
        stow && summary ? (
          <Where
            key={`${id}${stow.out}`}
            id={id}
            stow={stow}
            summary={summary}
            busy={job?.state === "running"}
            again={sealed?.report != null}
            ended={job?.ended ?? false}
          />
        ) : null
      }
    />
  );
}

/** Pace tells how far sealing is, in bytes. */
function Pace({ job }: { job: Job }) {
  return (
    <dl className="mt-4 grid grid-cols-[110px_1fr] gap-y-1">
      <dt className="text-faint">now</dt>
      <dd>{job.step}</dd>
      <dt className="text-faint">done</dt>
      <dd className="font-mono text-[12px]">
        {exact(job.done)} of {exact(job.total)}
        {job.of > 0 ? ` · ${count(job.files)} of ${plural(job.of, "file")}` : ""}
      </dd>
      <dt className="text-faint">rate</dt>
      <dd className="font-mono text-[12px]">{job.rate > 0 ? `${bytes(Math.round(job.rate))} a second` : "—"}</dd>
      <dt className="text-faint">time left</dt>
      <dd className="font-mono text-[12px]">{job.left > 0 ? timeLeft(job.left) : "—"}</dd>
    </dl>
  );
}
