import { useState } from "react";
import { useNavigate } from "react-router";

import * as acts from "../api/acts";
import { useAct, useAppState } from "../api/queries";
import type { AppState, Entry, Format, NewDrive, NewProject } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { FolderPicker } from "../shared/FolderPicker";
import { Field, TextLink } from "../shared/kit";
import { Button, Empty, Section, Trouble, Waiting } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural } from "../shared/words";
import { Survey } from "../survey/Survey";
import { Begin } from "./Begin";
import { Gather } from "./Gather";

/** Start lists the projects and adds one, or a drive where there is none yet. */
export function Start() {
  const { data: state } = useAppState();
  if (!state) return <Waiting what="Loading your projects." />;
  return (
    <Station
      name="Survey"
      slipName="Add a project"
      sheet={<Projects state={state} />}
      slip={state.drives.length > 0 ? <AddProject /> : <AddDrive />}
    />
  );
}

function Projects({ state }: { state: AppState }) {
  if (state.drives.length === 0) {
    return (
      <Empty title="Which folders do you work in?">
        <p>Bound Crate reads project documents and follows every file they name.</p>
        <p>It looks only inside the folders you give it, called drives.</p>
        <p>Add the first one on the right. Nothing in it is changed.</p>
      </Empty>
    );
  }
  return (
    <div className="min-h-0 flex-1 overflow-auto" tabIndex={0} role="group" aria-label="All projects">
      <Survey state={state} />
      <Kinds formats={state.formats} />
    </div>
  );
}

/** Kinds says what can be opened, with a plain word on what is known of each. */
function Kinds({ formats }: { formats: Format[] }) {
  const last = (f: Format) => Number(f.name === "any");
  const sorted = [...formats].sort((a, b) => last(a) - last(b) || a.title.localeCompare(b.title));
  return (
    <div className="px-[18px] pt-5 pb-4">
      <Section
        title="Documents that can be opened"
        aside={
          <>
            {formats.length} kinds of document · <TextLink to="/rules">describe another</TextLink>
          </>
        }
      >
        <ul className="columns-2 gap-8">
          {sorted.map((f) => (
            <li key={f.name} className="break-inside-avoid border-b border-hair py-1">
              <span className="flex items-baseline justify-between gap-2">
                <b className="font-medium">{f.title}</b>
                <span className="truncate font-mono text-[11.5px] text-faint">
                  {f.extensions.map((e) => (e === "*" ? "" : `.${e}`)).join(" ")}
                </span>
              </span>
              <span className="block text-[12px] text-faint">{f.knows}</span>
            </li>
          ))}
        </ul>
      </Section>
    </div>
  );
}

function AddProject() {
  const go = useNavigate();
  const [docs, setDocs] = useState<Entry[]>([]);
  const [root, setRoot] = useState("");
  const [name, setName] = useState("");
  const add = useAct(
    (p: NewProject) => acts.addProject(p),
    (p) => void go(`/p/${p.id}/trace`),
  );
  const choose = (e: Entry) => {
    const next = docs.some((d) => d.path === e.path) ? docs.filter((d) => d.path !== e.path) : [...docs, e];
    setDocs(next);
    // The first one leads: its folder is the project's own until another is said.
    if (next[0] !== docs[0]) {
      setRoot(next[0]?.root ?? "");
      setName(next[0]?.root.split("/").at(-1) ?? "");
    }
  };
  return (
    <>
      <h2 className="mb-1 text-[22px]">Add a project</h2>
      <p className="mb-3 text-ink2">
        Choose its document, or several that belong together, such as an assembly and its drawings. The format is
        recognised by content, whatever the extension.
      </p>
      <FolderPicker chosen={docs.map((d) => d.path)} files={(e) => e.format !== ""} onFile={choose} />
      {docs.length > 0 ? (
        <Section title="As a project" aside={plural(docs.length, "document")}>
          <ul aria-label="Chosen documents" className="mb-2">
            {docs.map((d) => (
              <li key={d.path} className="flex items-center gap-2 py-px">
                <span className="min-w-0 flex-1 truncate font-medium" {...tip(d.path)}>
                  {d.name}
                </span>
                <Button kind="small" aria-label={`Not ${d.name}`} onClick={() => choose(d)}>
                  Remove
                </Button>
              </li>
            ))}
          </ul>
          <label className="mb-2 block">
            <span className="text-[12px] text-faint">name</span>
            <Field className="w-full" value={name} onChange={(e) => setName(e.target.value)} />
          </label>
          <label className="block">
            <span className="text-[12px] text-faint">project folder: files inside are “here”, all others “away”</span>
            <Field mono className="w-full" value={root} onChange={(e) => setRoot(e.target.value)} />
          </label>
        </Section>
      ) : null}
      <Trouble error={add.error} />
      <Acts>
        <Button
          kind="first"
          disabled={docs.length === 0 || add.isPending}
          onClick={() => add.mutate({ documents: docs.map((d) => d.path), root, name })}
        >
          {docs.length === 0
            ? "Choose a document first"
            : docs.length === 1
              ? `Open ${docs[0]?.name}`
              : `Open ${docs.length} documents`}
        </Button>
        <Folds />
      </Acts>
    </>
  );
}

function Folds() {
  const [open, setOpen] = useState<"" | "drive" | "folder" | "set">("");
  if (open === "drive") return <DriveForm onDone={() => setOpen("")} />;
  if (open === "folder") return <Begin onDone={() => setOpen("")} />;
  if (open === "set") return <Gather onDone={() => setOpen("")} />;
  return (
    <div className="flex flex-wrap gap-2">
      <Button className="flex-1" onClick={() => setOpen("drive")}>
        Add a drive
      </Button>
      <Button className="flex-1" onClick={() => setOpen("folder")}>
        New folders
      </Button>
      <Button className="flex-1" onClick={() => setOpen("set")} {...tip("A project with no document: files, gathered")}>
        Loose set
      </Button>
    </div>
  );
}

function AddDrive() {
  return (
    <>
      <h2 className="mb-3 text-[22px]">Add a drive</h2>
      <DriveForm onDone={() => undefined} />
    </>
  );
}

function DriveForm({ onDone }: { onDone: () => void }) {
  const [name, setName] = useState("");
  const [dir, setDir] = useState("");
  const add = useAct((d: NewDrive) => acts.addDrive(d), onDone);
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        add.mutate({ name, dir });
      }}
    >
      <label className="mb-2 block">
        <span className="text-[12px] text-faint">folder (full path)</span>
        <Field mono className="w-full" value={dir} onChange={(e) => setDir(e.target.value)} required />
      </label>
      <div className="mb-2">
        <FolderPicker machine low onFolder={setDir} />
      </div>
      <label className="mb-2 block">
        <span className="text-[12px] text-faint">name</span>
        <Field className="w-full" value={name} onChange={(e) => setName(e.target.value)} />
      </label>
      <Trouble error={add.error} />
      <Button kind="first" type="submit" className="w-full" disabled={add.isPending}>
        Add drive
      </Button>
    </form>
  );
}
