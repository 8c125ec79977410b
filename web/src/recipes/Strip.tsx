import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import { choosing, useAct } from "../api/queries";
import type { Recipe, SetRecipe, Stow, UseRecipe } from "../api/types";
import { Sheet } from "../shared/Confirm";
import { Field } from "../shared/kit";
import { Badge, Button, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural } from "../shared/words";

/** Strip tells which recipe the choices came from and what differs by now; it opens to all of them. */
export function Strip({ id, stow }: { id: number; stow: Stow }) {
  const [open, setOpen] = useState(false);
  const { data } = useQuery({ ...acts.recipes({ project: id }), enabled: open });
  const name = stow.options.recipe;
  const from = stow.recipe;
  return (
    <div className="flex items-center gap-2 border-b border-rule bg-band px-[18px] py-1.5 text-[12px]">
      <span className="text-faint">recipe</span>
      <b className="font-medium">{name ? name : "custom choices"}</b>
      {from ? (
        <span className="min-w-0 flex-1 truncate text-faint" {...tip(from.differs.map(differs).join("\n"))}>
          {from.differs.length === 0
            ? from.says
            : `differs in ${from.differs.map((d) => keys[d.key] ?? d.key).join(", ")}`}
        </span>
      ) : (
        <span className="flex-1 text-faint">{name ? "" : "save them as a recipe"}</span>
      )}
      <Button kind="small" onClick={() => setOpen(true)}>
        Recipes
      </Button>
      <Sheet open={open} onClose={() => setOpen(false)} title="Recipes" wide>
        <Book id={id} list={data?.list ?? []} now={name} onDone={() => setOpen(false)} />
      </Sheet>
    </div>
  );
}

const keys: Record<string, string> = {
  layout: "layout",
  prefix: "text before names",
  suffix: "text after names",
  names: "names",
  leave: "files that stay",
  drop: "files that never travel",
  keep: "files that always travel",
  also: "optional files",
  sound: "sounds",
  trim: "handles in seconds",
  interchange: "simpler documents",
  digests: "digests",
  parts: "parts of an archive",
  for: "recipient",
  from: "sender",
};

const differs = (d: Recipe["differs"][number]) =>
  `${keys[d.key] ?? d.key}: ${d.now || "nothing"} now, ${d.recipe || "nothing"} in the recipe`;

function Book({ id, list, now, onDone }: { id: number; list: readonly Recipe[]; now: string; onDone: () => void }) {
  const [shown, setShown] = useState("");
  const [name, setName] = useState("");
  const [text, setText] = useState<string | null>(null);
  const use = useAct((r: UseRecipe) => acts.followRecipe(id, r), onDone, choosing(id));
  const save = useAct(
    (r: SetRecipe) => acts.setRecipe(r),
    () => {
      setName("");
      setText(null);
    },
  );
  const drop = useAct((r: string) => acts.dropRecipe(r));
  return (
    <>
      <div className="min-h-0 overflow-auto px-5 pb-3" tabIndex={0} role="group" aria-label="All recipes">
        <Trouble error={use.error ?? save.error ?? drop.error} />
        <ul>
          {list.map((r) => (
            <li key={r.name} className="border-b border-hair py-2">
              <div className="flex items-center gap-2">
                <b className="min-w-0 flex-1 truncate font-medium">
                  {r.name} {r.name === now ? <Badge tone="moss">chosen</Badge> : null}
                  {r.own ? <Badge tone="sea">yours</Badge> : null}
                </b>
                <Button
                  kind="small"
                  aria-expanded={shown === r.name}
                  onClick={() => setShown(shown === r.name ? "" : r.name)}
                >
                  {r.problem || r.differs.length === 0 ? "Show" : `Compare: ${plural(r.differs.length, "difference")}`}
                </Button>
                {r.own ? (
                  <Button kind="small" disabled={drop.isPending} onClick={() => drop.mutate(r.name)}>
                    Delete
                  </Button>
                ) : null}
                <Button
                  kind="smallFirst"
                  disabled={use.isPending || r.problem !== ""}
                  onClick={() => use.mutate({ name: r.name })}
                  aria-label={`Use ${r.name}`}
                >
                  Use
                </Button>
              </div>
              <p className={`text-[12px] ${r.problem ? "text-rust" : "text-ink2"}`}>{r.problem || r.says}</p>
              {shown === r.name ? (
                <>
                  {r.differs.length > 0 ? (
                    <table className="mt-1.5 w-full text-[12px]">
                      <thead>
                        <tr className="text-left text-faint">
                          <th scope="col" className="w-40 font-normal">
                            differs in
                          </th>
                          <th scope="col" className="font-normal">
                            now
                          </th>
                          <th scope="col" className="font-normal">
                            in the recipe
                          </th>
                        </tr>
                      </thead>
                      <tbody>
                        {r.differs.map((d) => (
                          <tr key={d.key} className="border-t border-hair align-top">
                            <td className="py-0.5">{keys[d.key] ?? d.key}</td>
                            <td className="pr-2 font-mono break-words">{d.now || "—"}</td>
                            <td className="font-mono break-words">{d.recipe || "—"}</td>
                          </tr>
                        ))}
                      </tbody>
                    </table>
                  ) : null}
                  <pre className="mt-1.5 overflow-auto border border-rule bg-field p-2 font-mono text-[11.5px]">
                    {r.text}
                  </pre>
                </>
              ) : null}
            </li>
          ))}
        </ul>
        {text !== null ? (
          <textarea
            aria-label="Recipe as YAML"
            value={text}
            onChange={(e) => setText(e.target.value)}
            rows={7}
            placeholder="layout: kind"
            className="mt-2 w-full rounded-xs border border-rule bg-field p-2 font-mono text-[12px]"
          />
        ) : null}
      </div>
      <div className="flex flex-wrap items-center gap-2 border-t border-rule bg-band px-5 py-3">
        <Field
          aria-label="Name of the recipe"
          placeholder="name"
          maxLength={64}
          value={name}
          onChange={(e) => setName(e.target.value)}
          className="w-44"
        />
        <Button
          disabled={name.trim() === "" || save.isPending}
          onClick={() =>
            save.mutate(
              text === null ? { name: name.trim(), text: "", project: id } : { name: name.trim(), text, project: 0 },
            )
          }
        >
          {text === null ? "Save current choices" : "Import"}
        </Button>
        <span className="flex-1" />
        <Button onClick={() => setText(text === null ? "" : null)}>
          {text === null ? "Import a recipe" : "Cancel"}
        </Button>
        <Button onClick={onDone}>Close</Button>
      </div>
    </>
  );
}
