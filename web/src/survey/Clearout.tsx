import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../api/client";
import { useAct, useAppState } from "../api/queries";
import type { AskClearout, Cleared as Answer, Started } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { CameOf } from "../frame/Under";
import { FolderPicker } from "../shared/FolderPicker";
import { Badge, Button, Empty, Section, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { bytes, plural, when } from "../shared/words";

/** Clearout: may a folder go? Everybody on the drives is asked. */
export function Clearout() {
  const { data: state } = useAppState();
  const [folder, setFolder] = useState({ path: "", label: "" });
  const [jobID, setJob] = useState("");
  const start = useAct(
    (r: AskClearout) => api.post<Started>("/clearout", r),
    (out) => setJob(out.job.id),
  );
  const job = state?.jobs.find((j) => j.id === jobID);
  const { data: answer } = useQuery({
    queryKey: ["clearout", jobID],
    queryFn: () => api.get<Answer>(`/clearout/${jobID}`),
    enabled: job?.state === "done",
  });
  const busy = job?.state === "running";
  const sheet = (
    <CameOf
      job={job}
      says="Every drive is looked through, and every document that changed since it was last read is read again."
      stopped="It was stopped; nothing is known."
      before={
        <Empty title="May this folder go?">
          Choose a folder on the right. Every document on the drives is asked whether it reads from it, writes into it,
          or has its only copy there. Nothing is moved or deleted.
        </Empty>
      }
      answer={answer ? <Verdict of={answer} /> : null}
    />
  );
  return (
    <Station
      name="Clear out"
      slipName="Which folder"
      sheet={sheet}
      slip={
        <>
          <h2 className="text-[22px]">Clear out</h2>
          <Section title="The folder">
            <FolderPicker onFolder={(path, label) => setFolder({ path, label })} />
          </Section>
          <Trouble error={start.error} />
          <Acts>
            <p className="truncate font-mono text-[12px] text-faint" {...tip(folder.path)}>
              {folder.path ? folder.label || folder.path.split("/").at(-1) : "no folder chosen"}
            </p>
            <Button
              kind="first"
              disabled={!folder.path || busy || start.isPending}
              onClick={() => start.mutate({ folder: folder.path })}
            >
              Ask who needs it
            </Button>
          </Acts>
        </>
      }
    />
  );
}

/** Verdict says whether the folder may go, and who would lose what. */
function Verdict({ of: a }: { of: Answer }) {
  const needed = a.readBy.length + a.writtenBy.length > 0;
  const readers = new Map<string, Answer["readBy"]>();
  for (const r of a.readBy) readers.set(r.document, [...(readers.get(r.document) ?? []), r]);
  return (
    <div className="min-h-0 overflow-auto px-[18px] py-4" tabIndex={0} role="group" aria-label="The verdict">
      <h2 className={`text-[24px] ${a.safe ? "text-moss" : needed ? "text-rust" : "text-ochre"}`}>
        {a.safe ? "Nobody needs it" : needed ? "It must not go as it is" : "Nobody is known to need it"}
      </h2>
      <p className="mb-1 font-mono text-[12px] break-words text-ink2">
        {a.label} · {plural(a.files, "file")} · {bytes(a.bytes)}
      </p>
      <p className="mb-3">
        {a.safe
          ? `None of ${plural(a.read, "document")} on the drives reads from it or writes into it, and all of them could be read.`
          : !needed
            ? "But not everything that could say so was read: it is not safe to let it go."
            : `${plural(readers.size, "document reads", "documents read")} from it, ${a.writtenBy.length > 0 ? plural(a.writtenBy.length, "writes", "write") : "none writes"} into it.`}{" "}
        <span className="text-faint">Asked {when(a.at)}.</span>
      </p>
      {a.onlyCopies.length > 0 ? (
        <Section title="Needed, and nowhere else" aside={plural(a.onlyCopies.length, "file")}>
          <Paths of={a.onlyCopies} />
        </Section>
      ) : null}
      {readers.size > 0 ? (
        <Section title="Reads from it" aside={plural(readers.size, "document")}>
          <ul>
            {[...readers].map(([doc, list]) => (
              <li key={doc} className="border-b border-hair py-1.5">
                <span className="block truncate font-medium" {...tip(doc)}>
                  {doc}
                </span>
                <ul>
                  {list.slice(0, 20).map((r) => (
                    <li key={r.path} className="flex items-baseline gap-2 pl-4">
                      <span className="truncate font-mono text-[12px]" {...tip(r.path)}>
                        {r.path.slice(a.label.length + 1)}
                      </span>
                      <span className="shrink-0 text-[12px] text-faint">{r.owner}</span>
                      <span className="flex-1" />
                      {r.elsewhere.length > 0 ? (
                        <span className="max-w-[50%] truncate text-[12px] text-faint" {...tip(r.elsewhere.join("\n"))}>
                          same content: {r.elsewhere[0]}
                        </span>
                      ) : (
                        <Badge tone="rust">only copy</Badge>
                      )}
                    </li>
                  ))}
                  {list.length > 20 ? (
                    <li className="pl-4 text-[12px] text-faint">and {list.length - 20} more</li>
                  ) : null}
                </ul>
              </li>
            ))}
          </ul>
        </Section>
      ) : null}
      {a.writtenBy.length > 0 ? (
        <Section title="Writes into it" aside={plural(a.writtenBy.length, "place")}>
          <ul>
            {a.writtenBy.map((w) => (
              <li key={w.document + w.owner} className="border-b border-hair py-1">
                <span className="block truncate font-medium" {...tip(w.document)}>
                  {w.document}
                </span>
                <span className="pl-4 font-mono text-[12px]">{w.path}</span>{" "}
                <span className="text-[12px] text-faint">{w.owner}</span>
              </li>
            ))}
          </ul>
        </Section>
      ) : null}
      {a.left.length > 0 ? (
        <Section title="Could not be read" aside={String(a.left.length)}>
          <p className="mb-1 text-ink2">Whoever stands here may need the folder and was not heard.</p>
          <ul>
            {a.left.map((u) => (
              <li key={u.path} className="flex justify-between gap-4 border-b border-hair py-1">
                <span className="truncate font-mono text-[12px]" {...tip(u.path)}>
                  {u.path}
                </span>
                <span className="text-[12px] text-faint">{u.why}</span>
              </li>
            ))}
          </ul>
        </Section>
      ) : null}
      {a.documents.length > 0 ? (
        <Section title="Documents that lie in it" aside={String(a.documents.length)}>
          <Paths of={a.documents} />
        </Section>
      ) : null}
    </div>
  );
}

function Paths({ of }: { of: string[] }) {
  return (
    <ul>
      {of.map((p) => (
        <li key={p} className="truncate border-b border-hair py-1 font-mono text-[12px]" {...tip(p)}>
          {p}
        </li>
      ))}
    </ul>
  );
}
