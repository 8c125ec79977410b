import { useQuery } from "@tanstack/react-query";

import * as acts from "../api/acts";
import { FolderPicker } from "../shared/FolderPicker";
import { Section } from "../shared/parts";
import { when } from "../shared/words";

/** Since chooses whether all goes into the crate, or what an earlier one has not. */
export function Since({ id, since, onSince }: { id: number; since: string; onSince: (crate: string) => void }) {
  const { data } = useQuery(acts.crates(id));
  const list = (data?.list ?? []).filter((c) => c.there && c.since === "");
  const other = since !== "" && !list.some((c) => c.path === since);
  return (
    <Section title="What goes" aside={since ? "a difference crate" : "everything"}>
      <label className="flex items-center gap-2 py-0.5">
        <input type="radio" name="since" className="accent-sea" checked={since === ""} onChange={() => onSince("")} />
        the whole crate
      </label>
      {list.map((c) => (
        <label key={c.path} className="flex items-start gap-2 py-0.5">
          <input
            type="radio"
            name="since"
            className="mt-1 accent-sea"
            checked={since === c.path}
            onChange={() => onSince(c.path)}
          />
          <span className="min-w-0">
            <span className="block truncate">only what is not in “{c.label.split("/").at(-1)}”</span>
            <span className="block truncate text-[12px] text-faint">
              sealed {when(c.at)}
              {c.for ? ` for ${c.for}` : ""}, for someone who has it
            </span>
          </span>
        </label>
      ))}
      <details className="mt-1 text-[12px]" open={other}>
        <summary className="cursor-pointer py-0.5 text-faint">only what is not in another crate</summary>
        <FolderPicker
          low
          chosen={[since]}
          onFolder={(p) => onSince(p)}
          onFile={(e) => onSince(e.path)}
          files={(e) => /\.(zip|tar|tgz|tar\.gz|tar\.zst)$/i.test(e.name) || e.name === "manifest-sha256.txt"}
        />
      </details>
      {since ? (
        <p className="mt-1 text-[12px] text-faint">
          Documents always go. Files that the other crate holds are listed and filled in when both are received
          together.
        </p>
      ) : null}
    </Section>
  );
}
