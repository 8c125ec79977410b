import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { SetSearch, Sibling, Summary } from "../api/types";
import { FolderPicker } from "../shared/FolderPicker";
import { Button, Section, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural, when } from "../shared/words";

/** Siblings are the states of a document that lie beside it: which is the latest, and what differs. */
export function Siblings({ summary }: { summary: Summary }) {
  const [open, setOpen] = useState("");
  if (summary.siblings.length < 2) return null;
  return (
    <Section title="Versions of this document" aside={plural(summary.siblings.length, "document")}>
      <ul className="max-h-72 overflow-auto">
        {summary.siblings.map((s) => (
          <li key={s.path} className="border-b border-hair py-0.5">
            <button
              type="button"
              disabled={s.own}
              aria-expanded={s.own ? undefined : open === s.path}
              onClick={() => setOpen(open === s.path ? "" : s.path)}
              className="flex w-full items-baseline gap-2 text-left enabled:hover:bg-band"
              {...tip(s.own ? "This project's" : "What differs")}
            >
              <span className={`min-w-0 flex-1 truncate ${s.own ? "font-semibold" : ""}`}>{s.name}</span>
              {s.newest ? <span className="text-[12px] font-medium text-moss">latest</span> : null}
              {s.own ? <span className="text-[12px] text-faint">this one</span> : null}
              <span className="font-mono text-[11.5px] whitespace-nowrap text-faint">{when(s.modified)}</span>
            </button>
            {open === s.path ? <Differs id={summary.project.id} of={s} /> : null}
          </li>
        ))}
      </ul>
    </Section>
  );
}

function Differs({ id, of }: { id: number; of: Sibling }) {
  const { data, error } = useQuery(acts.sibling(id, { path: of.path }));
  if (error) return <Trouble error={error} />;
  if (!data) return <p className="text-[12px] text-faint">Comparing.</p>;
  return (
    <div className="pb-1 pl-3 text-[12px]">
      <p>
        {plural(data.references, "reference")}, {data.missing === 0 ? "none missing" : `${data.missing} missing`};{" "}
        {plural(data.same, "file")} in both
      </p>
      <Names word="only there" of={data.came} />
      <Names word="only here" of={data.went} />
    </div>
  );
}

function Names({ word, of }: { word: string; of: string[] }) {
  if (of.length === 0) return null;
  return (
    <details>
      <summary className="cursor-pointer">
        {plural(of.length, "file")} {word}
      </summary>
      <ul>
        {of.map((n) => (
          <li key={n} className="truncate font-mono text-[11.5px]" {...tip(n)}>
            {n.split("/").at(-1)}
          </li>
        ))}
      </ul>
    </details>
  );
}

/** SearchFolders are where else a project's programs look, in order, with what each finds. */
export function SearchFolders({ summary }: { summary: Summary }) {
  const [adding, setAdding] = useState(false);
  const [folder, setFolder] = useState("");
  const id = summary.project.id;
  const set = useAct(
    (folders: string[]) => acts.setSearch(id, { folders } satisfies SetSearch),
    () => setAdding(false),
  );
  const paths = summary.search.map((s) => s.path);
  const moved = (i: number) => {
    const next = [...paths];
    const [one] = next.splice(i, 1);
    if (one !== undefined) next.splice(i - 1, 0, one);
    return next;
  };
  return (
    <Section title="Search folders" aside={summary.search.length > 0 ? "searched in this order" : undefined}>
      <ol>
        {summary.search.map((s, i) => (
          <li key={s.path} className="flex items-center gap-2 border-b border-hair py-0.5">
            <span className="min-w-0 flex-1 truncate font-mono text-[12px]" {...tip(s.path)}>
              {s.label}
            </span>
            <span className="text-[12px] whitespace-nowrap text-faint">
              {s.found === 0 ? "finds no files" : `finds ${s.found}`}
            </span>
            {i > 0 ? (
              <Button
                kind="small"
                aria-label={`${s.label} sooner`}
                disabled={set.isPending}
                onClick={() => set.mutate(moved(i))}
              >
                ↑
              </Button>
            ) : null}
            <Button
              kind="small"
              aria-label={`Not ${s.label}`}
              disabled={set.isPending}
              onClick={() => set.mutate(paths.filter((p) => p !== s.path))}
            >
              ×
            </Button>
          </li>
        ))}
      </ol>
      {adding ? (
        <div className="mt-2">
          <FolderPicker low start={summary.project.root} onFolder={setFolder} />
          <div className="mt-2 flex gap-2">
            <Button kind="small" disabled={!folder || set.isPending} onClick={() => set.mutate([...paths, folder])}>
              Add folder
            </Button>
            <Button kind="small" onClick={() => setAdding(false)}>
              Cancel
            </Button>
          </div>
        </div>
      ) : (
        <Button
          kind="small"
          className="mt-1"
          onClick={() => setAdding(true)}
          {...tip("Folders where this project’s programs look for parts and samples")}
        >
          Add a folder
        </Button>
      )}
      <Trouble error={set.error} />
    </Section>
  );
}
