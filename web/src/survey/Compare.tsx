import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";

import * as acts from "../api/acts";
import { useAct, useAppState } from "../api/queries";
import type { ChangedFile, ComparedFile, Comparing, CompareRequest } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { CameOf } from "../frame/Under";
import { FolderPicker } from "../shared/FolderPicker";
import { Size } from "../shared/kit";
import { Button, Empty, More, Section, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural } from "../shared/words";
import { whats } from "./whats";

/** Compare: what came, went and changed between two documents or two crates. */
export function Compare() {
  const { data: state } = useAppState();
  const [search] = useSearchParams();
  const [a, setA] = useState(search.get("a") ?? "");
  const [b, setB] = useState(search.get("b") ?? "");
  const [jobID, setJob] = useState("");
  const start = useAct(
    (r: CompareRequest) => acts.compare(r),
    (out) => setJob(out.job.id),
  );
  const job = state?.jobs.find((j) => j.id === jobID);
  const { data } = useQuery({ ...acts.compared(jobID), enabled: job?.state === "done" });
  const busy = job?.state === "running" || start.isPending;
  return (
    <Station
      name="Compare"
      slipName="Two to compare"
      sheet={
        <CameOf
          job={job}
          says="Contents are read only where names and sizes do not tell."
          stopped="Stopped. Nothing was changed."
          before={
            <Empty title="Which two?">
              Choose two documents or two crates on the right: Monday’s and today’s, what was sent and what is here now.
            </Empty>
          }
          answer={data ? <Outcome got={data} /> : null}
        />
      }
      slip={
        <>
          <h2 className="text-[22px]">Two to compare</h2>
          {[
            { title: "First", at: a, set: setA },
            { title: "Second", at: b, set: setB },
          ].map((x) => (
            <Section key={x.title} title={x.title} aside="document or crate">
              <FolderPicker
                low
                chosen={[x.at]}
                onFolder={(p) => x.set(p)}
                onFile={(e) => x.set(e.path)}
                files={() => true}
              />
              <p className="mt-1 truncate font-mono text-[12px] text-faint" {...tip(x.at)}>
                {x.at ? x.at.split("/").at(-1) : "nothing chosen"}
              </p>
            </Section>
          ))}
          <Trouble error={start.error} />
          <Acts>
            <Button kind="first" disabled={!a || !b || busy} onClick={() => start.mutate({ a, b })}>
              Compare
            </Button>
          </Acts>
        </>
      }
    />
  );
}

function Outcome({ got }: { got: Comparing }) {
  const r = got.result;
  const docs = r.documents.filter((d) => d.changed);
  return (
    <div className="min-h-0 overflow-auto px-[18px] py-4" tabIndex={0} role="group" aria-label="Result">
      <h2 className={`text-[24px] ${got.equal ? "text-moss" : "text-ink"}`}>
        {got.equal
          ? "No differences"
          : [
              got.came > 0 && `${plural(got.came, "file")} came`,
              got.went > 0 && `${plural(got.went, "file")} went`,
              got.changed > 0 && `${plural(got.changed, "file")} changed`,
              docs.length > 0 && `${plural(docs.length, "document")} changed`,
            ]
              .filter(Boolean)
              .join(" · ")}
      </h2>
      <p className="mb-3 font-mono text-[12px] break-words text-ink2">
        {r.a} → {r.b} · {plural(r.same, "file")} the same
      </p>
      <Files title="Only in the second" list={r.came} all={got.came} />
      <Files title="Only in the first" list={r.went} all={got.went} />
      {r.changed.length > 0 ? (
        <Section title="Changed" aside={String(got.changed)}>
          <ul>
            {r.changed.map((c) => (
              <Changed key={c.path} c={c} />
            ))}
            <More of={r.changed} all={got.changed} />
          </ul>
        </Section>
      ) : null}
      {docs.length > 0 ? (
        <Section title="Changed documents" aside={String(docs.length)}>
          <ul>
            {docs.map((d) => (
              <li key={d.path} className="border-b border-hair py-1 font-mono text-[12px]">
                {d.path}
              </li>
            ))}
          </ul>
        </Section>
      ) : null}
    </div>
  );
}

function Changed({ c }: { c: ChangedFile }) {
  return (
    <li className="flex justify-between gap-4 border-b border-hair py-1">
      <span
        className="min-w-0 truncate font-mono text-[12px]"
        {...tip(c.was === c.path ? c.path : `${c.was} → ${c.path}`)}
      >
        {c.was === c.path ? c.path : `${c.was} → ${c.path}`}
      </span>
      <span className="text-[12px] whitespace-nowrap text-ink2">{c.what.map((w) => whats[w]).join(", ")}</span>
    </li>
  );
}

function Files({ title, list, all }: { title: string; list: readonly ComparedFile[]; all: number }) {
  if (list.length === 0) return null;
  return (
    <Section title={title} aside={String(all)}>
      <ul>
        {list.map((f) => (
          <li key={f.path} className="flex justify-between gap-4 border-b border-hair py-1">
            <span className="min-w-0 truncate font-mono text-[12px]" {...tip(f.path)}>
              {f.path}
            </span>
            {f.missing ? <span className="text-[12px] text-rust">missing</span> : <Size of={f.bytes} />}
          </li>
        ))}
        <More of={list} all={all} />
      </ul>
    </Section>
  );
}
