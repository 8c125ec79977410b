import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import { useAct, useProjectID, useSummary } from "../api/queries";
import type { NoFileRow, NoFiles, WriteOut } from "../api/types";
import { LastWritten } from "../frame/LastWritten";
import { Acts, Station } from "../frame/Station";
import { useChosen } from "../shared/chosen";
import { Choose } from "../shared/Choose";
import { Confirm } from "../shared/Confirm";
import { FolderPicker } from "../shared/FolderPicker";
import { Mark } from "../shared/Mark";
import { Check, Field, TextLink } from "../shared/kit";
import { Asked, Button, Empty, Section, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { bytes, exact, plural } from "../shared/words";

/** NoFile: what exists only inside documents, or in a program that never saved it. */
export function NoFile() {
  const id = useProjectID();
  const { data: summary } = useSummary(id);
  const { data, error } = useQuery(acts.noFiles(id));
  return (
    <Asked error={error} data={data} waiting="Loading.">
      {(d) => <List id={id} data={d} last={<LastWritten id={id} summary={summary} />} />}
    </Asked>
  );
}

const columns = "grid grid-cols-[34px_22px_minmax(0,1fr)_minmax(0,1fr)_80px] gap-x-2 px-[18px]";

function List({ id, data, last }: { id: number; data: NoFiles; last: React.ReactNode }) {
  const can = data.list.filter((r) => r.why === "");
  const unsaved = data.list.filter((r) => r.state === "unsaved");
  const chosen = useChosen(can, (r) => r.use === "used");
  const [names, setNames] = useState<Record<string, string>>({});
  const [to, setTo] = useState<"each" | "one">("each");
  const [folder, setFolder] = useState({ path: "", label: "" });
  const [asking, setAsking] = useState(false);
  const write = useAct(
    (r: WriteOut) => acts.writeOut(id, r),
    () => setAsking(false),
  );
  const nameOf = (r: NoFileRow) => names[chosen.key(r)] ?? r.name;
  const picked = can.filter(chosen.has);
  const documents = new Set(picked.map((r) => r.document)).size;
  return (
    <Station
      name="No file yet"
      slipName="Save as files"
      sheet={
        data.list.length === 0 ? (
          <Empty title="Everything has a file">
            No document keeps data only inside itself, and nothing waits to be saved.{" "}
            <TextLink to="../trace">Back to the trace</TextLink>
          </Empty>
        ) : (
          <>
            <p className="px-[18px] pt-3 pb-2 text-[15px]">
              {unsaved.length > 0 ? (
                <>
                  <b className="font-semibold text-ochre">{unsaved.length} never saved</b>: the document refers to a
                  file that its program has not saved yet.{" "}
                </>
              ) : null}
              {data.list.length > unsaved.length ? (
                <>
                  <b className="font-semibold text-ochre">
                    {plural(data.list.length - unsaved.length, "item is", "items are")} stored only inside
                  </b>{" "}
                  {data.list.length - unsaved.length === 1 ? "its document" : "their documents"}
                  {can.length > 0 ? `; ${plural(can.length, "item")} can be saved as files.` : "."}
                </>
              ) : null}
            </p>
            <div className={`${columns} border-y border-rule bg-band py-1 text-[12px] text-faint`}>
              <span />
              <span />
              <span>item</span>
              <span>file name</span>
              <span className="text-right">size</span>
            </div>
            <ul className="min-h-0 flex-1 overflow-auto" aria-label="Items without a file">
              {data.list.map((r) => (
                <Row
                  key={r.ref}
                  row={r}
                  on={r.why === "" && chosen.has(r)}
                  name={nameOf(r)}
                  beside={to === "each"}
                  onToggle={() => chosen.toggle(r)}
                  onName={(name) => setNames({ ...names, [chosen.key(r)]: name })}
                />
              ))}
              {data.more > 0 ? <li className="px-[18px] py-2 text-faint">and {data.more} more</li> : null}
            </ul>
          </>
        )
      }
      slip={
        <>
          <h2 className="text-[22px]">Save as files</h2>
          <p className="mb-2 text-ink2">
            {plural(picked.length, "item")} selected, {bytes(picked.reduce((n, r) => n + r.size, 0))}. The documents
            will reference the new files.
          </p>
          <div className="flex gap-2">
            <Button kind="small" onClick={() => chosen.only(() => true)}>
              Select all
            </Button>
            <Button kind="small" onClick={() => chosen.only(() => false)}>
              None
            </Button>
          </div>
          <Section title="To">
            <Choose
              label="Where to"
              value={to}
              onChoose={(v) => setTo(v as "each" | "one")}
              choices={[
                { value: "each", word: "beside similar files" },
                { value: "one", word: "one folder" },
              ]}
            />
            {to === "one" ? (
              <div className="mt-2">
                <FolderPicker
                  makes
                  start={can[0]?.folder ?? ""}
                  onFolder={(path, label) => setFolder({ path, label })}
                />
              </div>
            ) : null}
          </Section>
          <Acts>
            {last}
            <Button
              kind="first"
              disabled={picked.length === 0 || (to === "one" && folder.path === "")}
              onClick={() => setAsking(true)}
            >
              Save {plural(picked.length, "file")}{" "}
            </Button>
          </Acts>
          <Confirm
            open={asking}
            onClose={() => setAsking(false)}
            title={`Save ${plural(picked.length, "file")}?`}
            act="Save"
            busy={write.isPending}
            onAct={() =>
              write.mutate({
                snapshot: data.snapshot,
                files: picked.map((r) => ({
                  ref: r.ref,
                  folder: to === "one" ? folder.path : r.folder,
                  name: nameOf(r),
                })),
              })
            }
          >
            <p className="mb-2">
              {plural(documents, "document is", "documents are")} changed to reference the new files; an edition of each
              is kept first, so you can restore it. No existing file is overwritten.
            </p>
            <ul className="max-h-60 overflow-auto">
              {picked.slice(0, 100).map((r) => (
                <li key={r.ref} className="font-mono text-[12px] break-words">
                  {to === "one" ? folder.label || folder.path : r.label}/{nameOf(r)}
                </li>
              ))}
              {picked.length > 100 ? <li className="text-faint">and {picked.length - 100} more</li> : null}
            </ul>
            <Trouble error={write.error} />
          </Confirm>
        </>
      }
    />
  );
}

interface RowProps {
  row: NoFileRow;
  on: boolean;
  name: string;
  /** it is written where its like lies */
  beside: boolean;
  onToggle: () => void;
  onName: (name: string) => void;
}

function Row({ row: r, on, name, beside, onToggle, onName }: RowProps) {
  return (
    <li className={`${columns} items-center border-b border-hair py-1`}>
      <Check aria-label={`${r.owner} in ${r.document}`} disabled={r.why !== ""} checked={on} onChange={onToggle} />
      <Mark state={r.state} />
      <span className="min-w-0">
        <span className="block truncate font-medium">{r.owner}</span>
        <span className="block truncate text-[12px] text-faint" {...tip(r.document)}>
          {[r.word, r.type, r.use === "used" ? "" : r.use, r.document.split("/").at(-1)].filter(Boolean).join(" · ")}
        </span>
      </span>
      {r.why === "" ? (
        <span className="min-w-0">
          <Field
            low
            mono
            className="w-full"
            aria-label={`Name for ${r.owner}`}
            value={name}
            onChange={(e) => onName(e.target.value)}
          />
          <span className="block truncate font-mono text-[11.5px] text-faint" {...tip(r.label)}>
            {beside ? `${r.label}/` : ""}
          </span>
        </span>
      ) : (
        <span className="text-[12px] text-faint">{r.says}</span>
      )}
      <span className="text-right font-mono text-[12px]" {...tip(r.size > 0 ? exact(r.size) : undefined)}>
        {r.size > 0 ? bytes(r.size) : "—"}
      </span>
    </li>
  );
}
