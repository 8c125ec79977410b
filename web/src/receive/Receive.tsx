import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";

import * as acts from "../api/acts";
import { useAct, useAppState } from "../api/queries";
import type { ReceiveRequest as Request, Received } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { CameOf } from "../frame/Under";
import { Proof } from "../seal/Proof";
import { FolderPicker } from "../shared/FolderPicker";
import { TextLink } from "../shared/kit";
import { Button, Empty, Section, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { bytes, plural } from "../shared/words";

/** Receive: check somebody's crate whole, then unpack it. */
export function Receive() {
  const { data: state } = useAppState();
  const [search] = useSearchParams();
  const [crate, setCrate] = useState(search.get("crate") ?? "");
  const [into, setInto] = useState("");
  const [jobID, setJob] = useState("");
  const start = useAct(
    (r: Request) => acts.receive(r),
    (out) => setJob(out.job.id),
  );
  const job = state?.jobs.find((j) => j.id === jobID);
  const { data: result } = useQuery({
    ...acts.received(jobID),
    enabled: job?.state === "done",
  });
  const busy = job?.state === "running";
  const sheet = (
    <CameOf
      job={job}
      says="Every byte is checked before anything is unpacked. You can leave this page; the work continues."
      stopped="Stopped. Nothing was unpacked."
      before={
        state?.drives.length === 0 ? (
          <Empty title="No drives yet">
            <p>A crate is read from a drive, and unpacked to one. A drive is any folder you work in.</p>
            <p>
              <TextLink to="/">Add the folder that holds the crate as a drive</TextLink>, then come back here.
            </p>
          </Empty>
        ) : (
          <Empty title="Which crate?">
            Choose a crate on the right: a folder or an archive. Every byte is checked before anything is unpacked.
          </Empty>
        )
      }
      answer={result ? <Outcome got={result} /> : null}
    />
  );
  return (
    <Station
      name="Receive"
      slipName="Receive a crate"
      sheet={sheet}
      slip={
        <>
          <h2 className="text-[22px]">Receive a crate</h2>
          <Section title="The crate" aside="folder or archive">
            <FolderPicker
              chosen={[crate]}
              onFolder={setCrate}
              onFile={(e) => setCrate(e.path)}
              files={(e) => /\.(zip|tar|tgz|tar\.gz|tar\.zst)$/i.test(e.name)}
              low
            />
          </Section>
          <Section title="Unpack into" aside="a new folder is created there">
            <FolderPicker makes onFolder={setInto} low />
          </Section>
          <Trouble error={start.error} />
          <Acts>
            <p className="truncate font-mono text-[12px] text-faint" {...tip(crate)}>
              {crate ? crate.split("/").at(-1) : "no crate chosen"}
              {into ? ` → ${into.split("/").at(-1)}/` : ""}
            </p>
            <Button
              kind="first"
              disabled={!crate || busy || start.isPending}
              onClick={() => start.mutate({ crate, into: "" })}
            >
              Check{" "}
            </Button>
            <Button disabled={!crate || !into || busy || start.isPending} onClick={() => start.mutate({ crate, into })}>
              Check and unpack
            </Button>
          </Acts>
        </>
      }
    />
  );
}

function Outcome({ got }: { got: Received }) {
  const open = !got.well;
  const omitted = got.omitted > 0 && got.omitted === got.report.problems.length;
  return (
    <div className="min-h-0 overflow-auto px-[18px] py-4" tabIndex={0} role="group" aria-label="Result">
      <h2 className={`text-[24px] ${got.harm > 0 ? "text-rust" : open ? "text-ochre" : "text-moss"}`}>
        {got.into
          ? "Checked and unpacked"
          : got.harm > 0
            ? "Damaged: differs from what was sealed"
            : omitted
              ? `Undamaged · ${plural(got.omitted, "file")} left out on purpose`
              : open
                ? "Undamaged, but incomplete"
                : "Undamaged and complete"}
      </h2>
      <p className="mb-3 font-mono text-[12px] break-words text-ink2">
        {got.label}
        {got.into ? ` → ${got.into}` : ""} · {bytes(got.report.bytes)}
      </p>
      {got.note || got.for || got.from ? (
        <div className="mb-3 max-w-[78ch] border-l-[3px] border-sea pl-3">
          {got.from || got.for ? (
            <p className="text-[12.5px] text-ink2">
              {[got.from && `From ${got.from}`, got.for && `for ${got.for}`].filter(Boolean).join(", ")}
            </p>
          ) : null}
          {got.note ? <p className="break-words whitespace-pre-line">{got.note}</p> : null}
        </div>
      ) : null}
      <Proof lines={got.proof} />
      {open ? (
        <Section
          title={got.harm > 0 ? "Problems" : omitted ? "Left out on purpose" : "Not complete"}
          aside={String(got.report.problems.length)}
        >
          <ul>
            {got.report.problems.map((p, i) => (
              <li key={i} className="border-b border-hair py-1">
                <span className="block truncate font-mono text-[12px] text-faint" {...tip(p.path)}>
                  {p.path}
                </span>
                {p.message}
              </li>
            ))}
          </ul>
        </Section>
      ) : null}
      {got.report.left.length > 0 ? (
        <Section title="Left out by the sender" aside={String(got.report.left.length)}>
          <ul>
            {got.report.left.map((l) => (
              <li key={l.path + l.why} className="flex justify-between gap-4 border-b border-hair py-1">
                <span className="truncate font-mono text-[12px]" {...tip(l.path)}>
                  {l.path.split("/").at(-1)}
                </span>
                <span className="text-[12px] text-faint">{l.why}</span>
              </li>
            ))}
          </ul>
        </Section>
      ) : null}
    </div>
  );
}
