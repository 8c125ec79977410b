import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import { tries } from "../api/client";
import { useAct } from "../api/queries";
import type { Candidate, Choose, CopyFrames, Entry, SayMeant, Wanted, WantedRow } from "../api/types";
import { Acts } from "../frame/Station";
import { Sheet } from "../shared/Confirm";
import { FolderPicker } from "../shared/FolderPicker";
import { useKeys } from "../shared/keys";
import { Mark } from "../shared/Mark";
import { DialogFoot } from "../shared/kit";
import { Button, Section, Trouble } from "../shared/parts";
import { LastSound, Picture, Pictures, Sound } from "../shared/Sound";
import { plural, when } from "../shared/words";
import { PutAside } from "./Aside";
import { Candidates } from "./Candidates";
import { Compare } from "./Compare";
import { FolderMoved } from "./FolderMoved";

/** Evidence lays what was last seen beside a candidate, and says what agrees and what does not. */
export function Evidence({
  id,
  row,
  wanted,
  snapshot,
  onDone,
}: {
  id: number;
  row: WantedRow;
  wanted: Wanted;
  snapshot: string;
  onDone: () => void;
}) {
  const [at, setAt] = useState(0);
  const [picking, setPicking] = useState(false);
  const [hand, setHand] = useState<Candidate | null>(null);
  const choose = useAct(
    (c: Choose) => (c.try ? tries(acts.choose(id, c)) : acts.choose(id, c)),
    (out) => {
      if (out.applied) onDone();
      else {
        setHand(out.candidate);
        setPicking(false);
      }
    },
  );
  const copy = useAct((c: CopyFrames) => acts.copyFrames(id, c));
  const meant = useAct((m: SayMeant) => acts.sayMeant(id, m), onDone);
  const list = hand ? [hand, ...wanted.candidates.filter((c) => c.path !== hand.path)] : wanted.candidates;
  const candidate = list[Math.min(at, list.length - 1)];
  // What speaks against a file is read before it is taken: Enter alone does not.
  const doubtful = candidate?.doubtful ?? false;
  const apply = () =>
    candidate && choose.mutate({ expected: row.key, path: candidate.path, try: false, despite: doubtful });
  useKeys({
    Enter:
      candidate && !choose.isPending
        ? (e) => {
            if (!doubtful || e.shiftKey) apply();
          }
        : undefined,
    c: list.length > 1 ? (e) => setAt((at + (e.shiftKey ? list.length - 1 : 1)) % list.length) : undefined,
  });
  return (
    <>
      <div className="flex items-center gap-2.5">
        <Mark state={row.gaps ? "missing" : row.state} big />
        <h2 className="min-w-0 text-[22px] leading-tight break-words">{row.name}</h2>
      </div>
      <p className="mt-1">
        {row.suspect.length > 0
          ? `The file exists, but ${row.suspect.join(" and ")}.`
          : row.gaps
            ? `Missing frames: ${row.gaps}.`
            : row.uses === 1
              ? "Used once."
              : `Used ${plural(row.uses, "time")}; one repair fixes all of them.`}{" "}
        {wanted.last
          ? `Last seen ${when(wanted.last.at)}.`
          : "No earlier record of this file; matching by name, folder and what the document says."}
      </p>
      <Candidates list={list} row={row} on={candidate} onChoose={setAt} />
      {candidate ? (
        <SpeaksFor row={row} wanted={wanted} candidate={candidate} />
      ) : (
        <p className="mt-4 text-ink2">
          {row.looked
            ? "No candidates found. Search another folder, or choose the file by hand."
            : "Not searched for yet. Choose folders on the left and search, or choose the file by hand."}
        </p>
      )}
      <Trouble error={choose.error ?? copy.error ?? meant.error} />
      <Acts>
        {candidate ? (
          <Button
            kind={doubtful ? "plain" : "first"}
            hint={doubtful ? "Shift Enter" : "Enter"}
            disabled={choose.isPending}
            onClick={apply}
          >
            Use this {candidate.files > 1 ? `(${candidate.files} files)` : "file"}
            {doubtful ? " anyway" : ""}
          </Button>
        ) : null}
        {candidate?.fills ? (
          <Button
            disabled={copy.isPending}
            onClick={() => copy.mutate({ snapshot, expected: row.key, path: candidate.path })}
          >
            Copy {plural(candidate.files, "frame")} into the sequence’s folder
          </Button>
        ) : null}
        {row.suspect.length > 0 ? (
          <Button disabled={meant.isPending} onClick={() => meant.mutate({ expected: row.key })}>
            This is the right file
          </Button>
        ) : null}
        <div className="flex gap-2 *:flex-1">
          <Button kind="small" onClick={() => setPicking(true)}>
            Choose by hand
          </Button>
          {row.gaps || row.suspect.length > 0 ? null : <FolderMoved id={id} row={row} onDone={onDone} />}
          {row.suspect.length > 0 ? null : <PutAside id={id} expected={row.key} name={row.name} onDone={onDone} />}
        </div>
      </Acts>
      <Sheet open={picking} onClose={() => setPicking(false)} title={`Which file is “${row.name}”?`} wide>
        <div className="px-5 pb-4">
          <p className="mb-2 text-ink2">
            {row.kind === "sequence" || row.gaps
              ? "Choose any one of its frames. The whole sequence is compared before you decide."
              : "It is compared with the last known state before you decide."}
          </p>
          <FolderPicker
            files={(e: Entry) => !e.folder}
            onFile={(e) => choose.mutate({ expected: row.key, path: e.path, try: true, despite: false })}
          />
          <Trouble error={choose.error} />
        </div>
        <DialogFoot>
          <Button onClick={() => setPicking(false)}>Close</Button>
        </DialogFoot>
      </Sheet>
    </>
  );
}

interface SpeaksProps {
  row: WantedRow;
  wanted: Wanted;
  candidate: Candidate;
}

/** SpeaksFor lays a candidate beside what was last seen: what agrees, what does not, how it looks and sounds. */
function SpeaksFor({ row, wanted, candidate }: SpeaksProps) {
  return (
    <Section title="Evidence" aside={`${Math.round(candidate.score * 100)} of 100`}>
      <ul>
        {candidate.reasons.map((r) => (
          <li key={r} className="flex gap-2 py-px">
            <span className="font-mono text-moss">+</span>
            {r}
          </li>
        ))}
        {candidate.warnings.map((r) => (
          <li key={r} className="flex gap-2 py-px text-rust">
            <span className="font-mono">−</span>
            {r}
          </li>
        ))}
      </ul>
      <Compare wanted={wanted} candidate={candidate} />
      {wanted.text ? <Differing path={candidate.path} last={row.key} /> : null}
      {candidate.preview === "sound" ? (
        <>
          {wanted.looks ? <LastSound path={row.key} used={wanted.ranges} /> : null}
          <Sound key={candidate.sample} path={candidate.sample} space used={wanted.ranges} />
        </>
      ) : candidate.preview === "picture" ? (
        wanted.looks ? (
          <Pictures path={candidate.sample} last={row.key} />
        ) : (
          <Picture path={candidate.sample} />
        )
      ) : null}
    </Section>
  );
}

/** Differing shows a text as a difference from what it was when it was last seen. */
function Differing({ path, last }: { path: string; last: string }) {
  const { data } = useQuery({
    ...acts.differs({ path, last }),
    retry: false,
  });
  if (!data) return null;
  return (
    <pre
      aria-label="Differences in the text"
      tabIndex={0}
      className="max-h-52 overflow-auto border border-rule bg-field p-1.5 font-mono text-[11.5px] -outline-offset-2"
    >
      {data.lines.length === 0
        ? "The text is the same."
        : data.lines.map((l, i) =>
            l.startsWith("-") ? (
              <del key={i} className="block bg-rustwash text-rust no-underline">
                {l}
              </del>
            ) : l.startsWith("+") ? (
              <ins key={i} className="block bg-mosswash text-moss no-underline">
                {l}
              </ins>
            ) : (
              <span key={i} className="block text-faint">
                {l || " "}
              </span>
            ),
          )}
    </pre>
  );
}
