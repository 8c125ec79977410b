import { useQuery } from "@tanstack/react-query";

import * as acts from "../api/acts";
import { Path } from "../shared/kit";
import { More, Section, Trouble } from "../shared/parts";
import { plural } from "../shared/words";
import { whats } from "../survey/whats";

/** Between tells what came, went and changed between two editions. */
export function Between({ id, a, b }: { id: number; a: number; b: number }) {
  const { data, error } = useQuery(acts.compareEditions(id, { a, b }));
  const r = data?.result;
  const docs = r?.documents.filter((d) => d.changed) ?? [];
  const none = data && data.came + data.went + data.changed + docs.length === 0;
  return (
    <Section title={`Since edition ${a}`} aside={r ? `${plural(r.same, "file")} the same` : ""}>
      <Trouble error={error} />
      {none ? <p className="text-faint">Nothing changed.</p> : null}
      {r ? (
        <ul className="text-[12px]">
          {r.came.map((f) => (
            <Item key={`c${f.path}`} mark="came" tone="text-moss" path={f.path} />
          ))}
          <More of={r.came} all={data.came} />
          {r.went.map((f) => (
            <Item key={`w${f.path}`} mark="went" tone="text-rust" path={f.path} />
          ))}
          <More of={r.went} all={data.went} />
          {r.changed.map((f) => (
            <Item
              key={`x${f.path}`}
              mark={f.what.map((w) => whats[w]).join(", ")}
              tone="text-ink2"
              path={f.was === f.path ? f.path : `${f.was} → ${f.path}`}
            />
          ))}
          <More of={r.changed} all={data.changed} />
          {docs.map((d) => (
            <Item key={`d${d.path}`} mark="document changed" tone="text-ink2" path={d.path} />
          ))}
        </ul>
      ) : null}
      {r && r.unsure > 0 ? (
        <p className="mt-1 text-[12px] text-faint">
          {plural(r.unsure, "file")} may have changed: the earlier content was never read.
        </p>
      ) : null}
    </Section>
  );
}

function Item({ mark, tone, path }: { mark: string; tone: string; path: string }) {
  return (
    <li className="border-b border-hair py-0.5">
      <span className={tone}>{mark}</span>
      <Path>{path}</Path>
    </li>
  );
}
