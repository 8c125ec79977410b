import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useSearchParams } from "react-router";

import * as acts from "../api/acts";
import { trial } from "../api/client";
import { useAct } from "../api/queries";
import type { Rules as Listed, RulesFile, RulesLearned, SetRules } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { Confirm } from "../shared/Confirm";
import { FolderPicker } from "../shared/FolderPicker";
import { Field, TextLink } from "../shared/kit";
import { Asked, Badge, Button, Section, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { Editor } from "./Editor";
import { Finds } from "./Finds";
import { useLater } from "./later";

const starter = `title: A format of your studio
extensions: [session]
carrier: text            # xml, json, text or binary
paths:
  - match: '^load "([^"]+)"'   # the group in brackets is the path
  - match: '^print to (\\S+)'
    role: write          # where new material goes
`;

/** fresh stands in the address for a file that has no name yet. */
const fresh = "*";

/** drafts keeps what was written and not saved, while the page is left for another. */
const drafts = new Map<string, string>();

/** Rules: write, test and switch the studio's own descriptions of text formats. */
export function Rules() {
  const rules = useQuery(acts.rules());
  return (
    <Asked error={rules.error} data={rules.data} waiting="Loading rules files.">
      {(data) => <Desk listed={data} />}
    </Asked>
  );
}

function Desk({ listed }: { listed: Listed }) {
  const [params, setParams] = useSearchParams();
  const name = params.get("file") || (params.has("sample") ? fresh : (listed.files[0]?.name ?? ""));
  const file = listed.files.find((f) => f.name === name);
  const open = (to: string, sample = "") => setParams(sample ? { file: to, sample } : { file: to });
  // Another file, or another text of it on disk, is another draft.
  return <Draft key={`${name}\n${file?.text ?? ""}`} listed={listed} name={name} file={file} open={open} />;
}

function Draft({
  listed,
  name,
  file,
  open,
}: {
  listed: Listed;
  name: string;
  file: RulesFile | undefined;
  open: (name: string, sample?: string) => void;
}) {
  const [text, draw] = useState(drafts.get(name) ?? file?.text ?? starter);
  const setText = (t: string) => {
    drafts.set(name, t);
    draw(t);
  };
  const [called, setCalled] = useState(file ? name : "");
  const [params] = useSearchParams();
  const [sample, setSample] = useState(params.get("sample") ?? "");
  const [dropping, setDropping] = useState(false);
  const later = useLater(text, 300);
  const tried = useQuery({
    ...trial(["try rules", later, sample], acts.tryRules({ text: later, sample })),
    placeholderData: (before) => before,
  });
  const set = useAct(
    (r: SetRules) => acts.setRules(r),
    (_, r) => {
      if (r.text === text) drafts.delete(name);
      open(r.name);
    },
  );
  const drop = useAct(
    (n: string) => acts.dropRules(n),
    () => {
      drafts.delete(name);
      setDropping(false);
      open("");
    },
  );
  const take = (source: string) => {
    if (!file) {
      const stem =
        sample
          .split("/")
          .at(-1)
          ?.replace(/\.[^.]*$/, "") ?? "";
      if (called === "") setCalled(stem);
      return setText(source);
    }
    drafts.set(fresh, source); // what is open here stays as it is
    open(fresh, sample);
  };
  const target = file ? file.name : called.trim();
  const changed = !file || text !== file.text;
  const problems = tried.data?.problems ?? [];
  const on = file?.on ?? false;
  const there = !file && listed.files.some((f) => f.name === target);
  return (
    <Station
      name="Rules"
      slipName="Rules files"
      sheet={
        <>
          <div className="flex flex-wrap items-baseline gap-x-3 px-[18px] pt-4 pb-2">
            {file ? (
              <h2 className="text-[24px]">{file.name}</h2>
            ) : (
              <>
                <h2 className="text-[24px]">New rules file</h2>
                <Field
                  placeholder="name"
                  aria-label="Name"
                  value={called}
                  onChange={(e) => setCalled(e.target.value)}
                />
              </>
            )}
            {file ? <Badge tone={on ? "moss" : "ochre"}>{on ? "in use" : "off"}</Badge> : null}
            {file && changed ? <span className="text-[12px] text-ochre">changed, not saved</span> : null}
            <span className="flex-1" />
            <Verdict count={problems.length} checked={tried.data !== undefined} />
          </div>
          <Editor text={text} onText={setText} problems={problems} />
          <Finds tried={tried.data} error={tried.error} sample={sample} />
        </>
      }
      slip={
        <>
          <h2 className="mb-1 text-[22px]">Rules files</h2>
          <p className="mb-3 text-ink2">
            Describe where paths are in a format of your own. A rules file that is switched on takes precedence over the
            built-in formats, and its documents can be rewritten like any other.
          </p>
          <Yours listed={listed} name={name} busy={set.isPending} onOpen={open} onSet={set.mutate} />
          <p className="mt-2 text-[12.5px]">
            <TextLink to="/habits">Habits</TextLink> describe rebuildable files and companions.
          </p>
          <Sample sample={sample} learn={!file} onSample={setSample} onTake={take} />
          <Trouble error={set.error ?? drop.error} />
          <Acts>
            {there ? (
              <p className="text-[12px] text-rust">A rules file of this name exists. Choose another name.</p>
            ) : null}
            <Button
              kind="first"
              disabled={!changed || target === "" || there || set.isPending}
              onClick={() =>
                set.mutate({
                  name: target,
                  text,
                  on: on && problems.length === 0,
                })
              }
            >
              Save{on && problems.length > 0 ? ", and switch off" : ""}
            </Button>
            {file ? (
              <Button disabled={set.isPending} onClick={() => setDropping(true)}>
                Delete
              </Button>
            ) : null}
          </Acts>
          <Confirm
            open={dropping}
            onClose={() => setDropping(false)}
            title={`Delete the rules file “${name}”?`}
            act="Delete"
            busy={drop.isPending}
            onAct={() => drop.mutate(name)}
          >
            <p>
              This deletes it from the data folder and cannot be undone. Its documents are then read by the built-in
              formats; none of them is changed.
            </p>
          </Confirm>
        </>
      }
    />
  );
}

interface YoursProps {
  listed: Listed;
  name: string;
  busy: boolean;
  onOpen: (name: string) => void;
  onSet: (r: SetRules) => void;
}

/** Yours lists the rules files there are, and switches them. */
function Yours({ listed, name, busy, onOpen, onSet }: YoursProps) {
  return (
    <Section title="Yours" aside={listed.folder.split("/").slice(-2).join("/")}>
      <ul>
        {listed.files.map((f) => (
          <li
            key={f.name}
            className={`flex items-center gap-2 border-b border-hair py-1 ${f.name === name ? "bg-seawash" : ""}`}
          >
            <button
              type="button"
              className="min-w-0 flex-1 truncate px-1 text-left"
              aria-current={f.name === name}
              onClick={() => onOpen(f.name)}
            >
              <span className="font-medium">{f.title || f.name}</span>{" "}
              <span className="font-mono text-[11.5px] text-faint">{f.extensions.map((e) => `.${e}`).join(" ")}</span>
            </button>
            {f.problems.length > 0 ? <Badge tone="rust">cannot be used</Badge> : null}
            <Button
              kind="small"
              disabled={busy || (!f.on && f.problems.length > 0)}
              aria-label={`Switch ${f.on ? "off" : "on"} ${f.name}`}
              onClick={() => onSet({ name: f.name, text: f.text, on: !f.on })}
            >
              {f.on ? "Switch off" : "Switch on"}
            </Button>
          </li>
        ))}
        {listed.files.length === 0 ? (
          <li className="py-1 text-faint">No rules files yet. Write the first one on the left.</li>
        ) : null}
      </ul>
      {listed.files.some((f) => f.name === name) ? (
        <Button kind="small" className="mt-2" onClick={() => onOpen(fresh)}>
          New rules file
        </Button>
      ) : null}
    </Section>
  );
}

interface SampleProps {
  sample: string;
  /** rules are proposed at once to whoever comes with a sample */
  learn: boolean;
  onSample: (path: string) => void;
  onTake: (rules: string) => void;
}

/** Sample is the document that rules are tried on, and that others are proposed from. */
function Sample({ sample, learn, onSample, onTake }: SampleProps) {
  const [params] = useSearchParams();
  const learned = useAct(() => acts.learnRules({ sample }));
  // Whoever comes from a document that nobody knows wants to hear what can be made of it.
  const { mutate: propose } = learned;
  const came = params.get("sample") ?? "";
  useEffect(() => {
    if (came !== "" && learn) propose(undefined);
  }, [came, learn, propose]);
  return (
    <Section title="Sample" aside={sample ? sample.split("/").at(-1) : "a document to test it on"}>
      <FolderPicker chosen={[sample]} onFile={(e) => onSample(e.path)} files={() => true} low />
      <Button
        kind="small"
        className="mt-2"
        disabled={!sample || learned.isPending}
        onClick={() => learned.mutate(undefined)}
        {...tip("Find values in the sample that look like paths")}
      >
        Propose rules
      </Button>
      <Trouble error={learned.error} />
      <ul aria-label="Proposals">
        {learned.data?.proposals.map((p) => (
          <li key={p.title} className="flex items-center gap-2 border-b border-hair py-1">
            <span className="min-w-0 flex-1">
              {p.title}
              <span className="block font-mono text-[11.5px] wrap-anywhere whitespace-pre-line text-faint">
                {said(p.paths)}
              </span>
            </span>
            <Button kind="small" onClick={() => onTake(p.rules)}>
              Use
            </Button>
          </li>
        ))}
      </ul>
    </Section>
  );
}

function Verdict({ count, checked }: { count: number; checked: boolean }) {
  if (!checked) return null;
  return (
    <span role="status" className={count > 0 ? "text-rust" : "text-moss"}>
      {count === 0 ? "No errors" : count === 1 ? "1 error" : `${count} errors`}
    </span>
  );
}

/** said are the places of a proposal with what stands at them. */
const said = (shapes: RulesLearned["proposals"][number]["paths"]) =>
  shapes.map((s) => `${s.at || s.match}: ${s.guessed} of ${s.values}, ${s.leads} found`).join("\n");
