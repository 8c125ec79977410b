import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { SetSettings, Settings as Data } from "../api/types";
import { Station } from "../frame/Station";
import { Choose } from "../shared/Choose";
import { setSingleKeys, useSingleKeys } from "../shared/keys";
import { Field, TextLink } from "../shared/kit";
import { Asked, Section, Trouble } from "../shared/parts";
import { PathActs } from "../shared/PathActs";
import { setTheme, useTheme } from "../shared/theme";

/** Settings are those of the application on this machine. */
export function Settings() {
  const { data, error } = useQuery(acts.settings());
  return (
    <Station
      name="Settings"
      slipName="About"
      sheet={
        <Asked error={error} data={data} waiting="Loading settings.">
          {(d) => <Choices data={d} />}
        </Asked>
      }
      slip={data ? <About data={data} /> : null}
    />
  );
}

function Choices({ data }: { data: Data }) {
  const theme = useTheme();
  const single = useSingleKeys();
  return (
    <div className="min-h-0 overflow-auto px-[18px] py-4" tabIndex={0} role="group" aria-label="Settings">
      <h2 className="text-[24px]">Settings</h2>
      <Section title="Appearance">
        <Choose
          label="Appearance"
          value={theme}
          onChoose={setTheme}
          choices={[
            { value: "day", word: "light" },
            { value: "night", word: "dark" },
          ]}
        />
      </Section>
      <Section title="Keyboard">
        <Choose
          label="Single-letter keys"
          value={single ? "on" : "off"}
          onChoose={(v) => setSingleKeys(v === "on")}
          choices={[
            { value: "on", word: "single-letter keys on" },
            { value: "off", word: "off" },
          ]}
        />
        <p className="mt-1 text-[12px] text-faint">
          Turn them off if you use speech input. Arrows, Enter, Space and Tab keep working.
        </p>
      </Section>
      <Section title="Log">
        <Kept data={data} />
      </Section>
      <Section title="Drives">
        <p>
          Drives are added on the <TextLink to="/">start page</TextLink> and set up under{" "}
          <TextLink to="/drives">Drives</TextLink>.
        </p>
      </Section>
      <Section title="Where Bound Crate keeps its data">
        <Place
          name="Data folder"
          path={data.data}
          says="Projects, repairs, recipes, rules files. Set with --data or “data” in the configuration file."
        />
        <Place
          name="Editions"
          path={data.editions}
          says="Earlier states of documents, kept before each change. Set with “editions” in the configuration file."
        />
      </Section>
    </div>
  );
}

function Place({ name, path, says }: { name: string; path: string; says: string }) {
  return (
    <div className="border-b border-hair py-2">
      <p>
        {name} <code className="font-mono text-[12px] break-all">{path}</code>
      </p>
      <p className="text-[12px] text-faint">{says}</p>
      <PathActs path={path} />
    </div>
  );
}

function Kept({ data }: { data: Data }) {
  const [text, setText] = useState(String(data.keepJobs));
  const set = useAct((s: SetSettings) => acts.setSettings(s));
  const keep = () => {
    if (text !== String(data.keepJobs)) set.mutate({ keepJobs: Number(text) || 0 });
  };
  return (
    <>
      <label className="flex items-center gap-2">
        jobs shown in the log
        <Field
          low
          className="w-16 text-right"
          inputMode="numeric"
          value={text}
          onChange={(e) => setText(e.target.value)}
          onBlur={keep}
          onKeyDown={(e) => e.key === "Enter" && keep()}
        />
      </label>
      <Trouble error={set.error} onAway={set.reset} />
    </>
  );
}

function About({ data }: { data: Data }) {
  return (
    <>
      <h2 className="text-[22px]">About</h2>
      <p className="mt-1">Bound Crate {data.version}</p>
      <p className="mt-2 text-ink2">
        Runs on this machine only and makes no network connections. Documents and files stay where they are.
      </p>
      <p className="mt-2">
        <a className="text-sea underline underline-offset-2" href="/licences.txt" target="_blank" rel="noreferrer">
          Licences of the software it contains
        </a>
      </p>
      <p className="mt-2">
        <TextLink to="/doctor">What works on this machine</TextLink>
      </p>
    </>
  );
}
