import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import { trial } from "../api/client";
import { useAct, useAppState } from "../api/queries";
import type { Habits as Answer } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { Pick } from "../shared/Pick";
import { TextLink } from "../shared/kit";
import { Asked, Button, Section, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural } from "../shared/words";
import { Editor } from "./Editor";
import { useLater } from "./later";

/** Habits: what is made again, what belongs together, where things get tidied away. */
export function Habits() {
  const { data, error } = useQuery(acts.habits());
  return (
    <Asked error={error} data={data} waiting="Loading habits.">
      {(d) => <Desk key={d.text} of={d} />}
    </Asked>
  );
}

function Desk({ of }: { of: Answer }) {
  const { data: state } = useAppState();
  const [text, setText] = useState(of.text);
  const [project, setProject] = useState(0);
  const later = useLater(text, 300);
  const on = project || (state?.projects[0]?.id ?? 0);
  const { data: tried, error } = useQuery({
    ...trial(["try habits", later, on], acts.tryHabits({ text: later, project: on })),
    placeholderData: (before) => before,
  });
  const set = useAct((t: string) => acts.setHabits({ text: t, project: 0 }));
  const problems = tried?.problems ?? [];
  return (
    <Station
      name="Habits"
      slipName="Effect on a project"
      sheet={
        <>
          <div className="px-[18px] pt-3 pb-2">
            <h2 className="text-[24px]">Habits</h2>
            <p className="max-w-[80ch] text-ink2">
              Naming habits of programs and people: which files can be rebuilt and are no loss when missing, which
              belong to another file and travel with it, and where old files are moved.
            </p>
          </div>
          <Editor text={text} onText={setText} problems={problems} />
        </>
      }
      slip={
        <>
          <h2 className="text-[22px]">Effect</h2>
          <div className="mt-1">
            <span className="text-[12px] text-faint">of this project</span>
            <Pick
              label="of this project"
              value={String(on)}
              onPick={(v) => setProject(Number(v))}
              choices={(state?.projects ?? []).map((p) => ({ value: String(p.id), word: p.name }))}
            />
          </div>
          <Trouble error={error} />
          <Names title="Can be rebuilt" of={tried?.rebuildable ?? []} />
          <Names title="In Downloads or temporary folders" of={tried?.dumps ?? []} />
          <Names
            title="Companions of a file"
            of={(tried?.companions ?? []).map(
              (c) => `${c.name}${c.found ? ` (at ${c.found})` : c.gone ? " (gone)" : ""}`,
            )}
          />
          <p className="mt-3 text-[12.5px]">
            <TextLink to="/rules">Rules files</TextLink> describe where a format names its files.
          </p>
          <Trouble error={set.error} />
          <Acts>
            {of.own ? (
              <Button disabled={set.isPending} onClick={() => set.mutate("")}>
                Restore defaults
              </Button>
            ) : null}
            <Button
              kind="first"
              disabled={set.isPending || text === of.text || problems.length > 0}
              onClick={() => set.mutate(text)}
            >
              Save
            </Button>
          </Acts>
        </>
      }
    />
  );
}

function Names({ title, of }: { title: string; of: string[] }) {
  return (
    <Section title={title} aside={of.length === 0 ? "none" : plural(of.length, "file")}>
      <ul className="max-h-36 overflow-auto">
        {of.map((n) => (
          <li key={n} className="truncate font-mono text-[12px]" {...tip(n)}>
            {n}
          </li>
        ))}
      </ul>
    </Section>
  );
}
