import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import * as acts from "../api/acts";
import { query } from "../api/client";
import { useAct } from "../api/queries";
import type { Adopt, NewLoose, PutAway, Stray, Strays, Twin } from "../api/types";
import { Confirm } from "../shared/Confirm";
import { CsvLink, PrintLink } from "../shared/Csv";
import { Check, Field, Size } from "../shared/kit";
import { Asked, Badge, Button, Empty, Section, Trouble } from "../shared/parts";
import { OrderFilter, OrderHead, useOrder, type Order } from "../shared/Order";
import { Sound } from "../shared/Sound";
import { tip } from "../shared/Tip";
import { bytes, plural, when } from "../shared/words";

const useStrays = (id: number, order?: Order) =>
  useQuery({ ...acts.strays(id, { filter: order?.filter, sort: order?.sort }), placeholderData: (old) => old });

/** Unnamed lists what lies in the project and no document names; it can be adopted, and then travels. */
export function Unnamed({ id }: { id: number }) {
  const order = useOrder();
  const { data, error } = useStrays(id, order);
  return (
    <Asked error={error} data={data} waiting="Searching the project folder.">
      {(d) => <List id={id} data={d} order={order} />}
    </Asked>
  );
}

const recent = "Newer than every document of the project: they may be recent recordings.";

const tracks = "grid grid-cols-[24px_minmax(0,1fr)_minmax(0,1fr)_104px_76px_96px] items-center gap-2";

function List({ id, data, order }: { id: number; data: Strays; order: Order }) {
  const adopt = useAct((a: Adopt) => acts.adopt(id, a));
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [open, setOpen] = useState("");
  const [asking, setAsking] = useState(false);
  const putAway = useAct(
    (x: PutAway) => acts.putAway(id, x),
    () => {
      setAsking(false);
      setChosen(new Set());
    },
  );
  const picked = data.list.filter((s) => chosen.has(s.path));
  const away = picked.filter((s) => s.what !== "editions");
  const toggle = (path: string) => {
    const next = new Set(chosen);
    if (!next.delete(path)) next.add(path);
    setChosen(next);
  };
  const say = (list: readonly Stray[], travels: boolean) =>
    adopt.mutate({ paths: list.map((s) => s.path), travels }, { onSuccess: () => setChosen(new Set()) });
  if (data.list.length === 0 && order.filter === "")
    return <Empty title="No unreferenced files">Every file in the project folder is referenced by a document.</Empty>;
  const asked = { filter: order.filter, sort: order.sort };
  const newer = data.list.filter((s) => s.newer).length;
  return (
    <>
      <div className="flex items-center gap-2 border-y border-rule bg-band px-[18px] py-1.5">
        <span className="min-w-0 flex-1 truncate text-[12px] text-faint" {...tip(newer > 0 ? recent : "")}>
          {newer > 0 ? `${newer} newer than the documents` : order.sort === "" ? "newest first" : ""}
        </span>
        <OrderFilter order={order} label="Filter unreferenced files" />
        <span className="flex gap-2 text-[12px] text-faint">
          <CsvLink id={id} name="strays" asked={asked} /> <PrintLink id={id} name="strays" asked={asked} />{" "}
          {plural(picked.length, "selected", "selected")}
        </span>
        <Button kind="small" disabled={picked.length === 0 || adopt.isPending} onClick={() => say(picked, true)}>
          Include
        </Button>
        <Button kind="small" disabled={picked.length === 0 || adopt.isPending} onClick={() => say(picked, false)}>
          Do not include
        </Button>
        <Button kind="small" disabled={away.length === 0 || putAway.isPending} onClick={() => setAsking(true)}>
          Move to holding folder
        </Button>
        <GatherThem files={picked} />
      </div>
      <Confirm
        open={asking}
        onClose={() => setAsking(false)}
        title={`Move ${plural(away.length, "file")} to the holding folder?`}
        act="Check and move"
        busy={putAway.isPending}
        onAct={() => putAway.mutate({ snapshot: data.snapshot, paths: away.map((s) => s.path), days: 30 })}
      >
        <p>
          {bytes(away.reduce((n, s) => n + s.size, 0))} will be moved out of the project folder. All documents on your
          drives are checked first; a file that any of them uses stays.
        </p>
        <p className="mt-2">
          They are kept for at least 30 days in the holding folder of their drive. Clear out can bring them back until
          they are erased there.
        </p>
      </Confirm>
      <Trouble error={putAway.error} />
      <Trouble error={adopt.error} />
      <div className={`${tracks} border-b border-rule px-[18px] py-1 text-[11.5px] text-faint`}>
        <span />
        <OrderHead order={order} by="name" word="file" />
        <OrderHead order={order} by="place" word="folder" />
        <OrderHead order={order} by="modified" word="modified" />
        <OrderHead order={order} by="size" word="size" right />
        <OrderHead order={order} by="included" word="included" right />
      </div>
      {data.list.length === 0 ? <Empty title="No files match">Clear the filter to see all files.</Empty> : null}
      <ul className="min-h-0 flex-1 overflow-auto" aria-label="Unreferenced files" tabIndex={0} role="list">
        {data.list.map((s) => (
          <li key={s.path} className="border-b border-hair px-[18px] py-1">
            <div className={tracks}>
              <Check aria-label={s.name} checked={chosen.has(s.path)} onChange={() => toggle(s.path)} />
              <span className="flex min-w-0 items-center gap-1.5">
                {s.preview ? (
                  <button
                    type="button"
                    aria-expanded={open === s.path}
                    className="min-w-0 truncate text-left font-medium underline decoration-rule underline-offset-2 hover:decoration-ink"
                    onClick={() => setOpen(open === s.path ? "" : s.path)}
                  >
                    {s.name}
                  </button>
                ) : (
                  <span className="truncate font-medium" {...tip(s.name)}>
                    {s.name}
                  </span>
                )}
                {s.newer ? <Badge>newer</Badge> : null}
                {s.what === "strays" ? null : (
                  <Badge tone="sea">{s.what === "editions" ? "earlier version" : s.word}</Badge>
                )}
              </span>
              <span className="truncate font-mono text-[11.5px] text-faint" {...tip(s.label)}>
                {s.label}
              </span>
              <span className="text-[12px] text-faint">{when(s.modified)}</span>
              <Size of={s.size} />
              <span className="text-right">
                <Button kind="small" disabled={adopt.isPending} onClick={() => say([s], !s.travels)}>
                  {s.travels ? "Do not include" : "Include"}
                </Button>
              </span>
            </div>
            {open === s.path ? (
              <div className="my-1.5 ml-8 max-w-[560px]">
                {s.preview === "sound" ? (
                  <Sound path={s.path} space />
                ) : (
                  <img
                    src={query("/api/media", { path: s.path })}
                    alt={s.name}
                    className="max-h-48 border border-rule"
                  />
                )}
              </div>
            ) : null}
          </li>
        ))}
        {data.files > data.list.length ? (
          <li className="px-[18px] py-1 text-faint">and {plural(data.files - data.list.length, "file")} more</li>
        ) : null}
      </ul>
    </>
  );
}

/** GatherThem makes a loose set of chosen files: a project with no document. */
function GatherThem({ files }: { files: readonly Stray[] }) {
  const go = useNavigate();
  const [open, setOpen] = useState(false);
  const [title, setTitle] = useState("");
  const make = useAct(
    (n: NewLoose) => acts.gather(n),
    (p) => void go(`/p/${p.id}/set`),
  );
  return (
    <>
      <Button kind="small" disabled={files.length === 0} onClick={() => setOpen(true)}>
        Gather as set
      </Button>
      <Confirm
        open={open}
        onClose={() => setOpen(false)}
        title={`Gather ${plural(files.length, "file")} as a loose set`}
        act="Gather the files"
        busy={make.isPending || title.trim() === ""}
        onAct={() =>
          make.mutate({ folder: "", files: files.map((f) => f.path), title, author: "", note: "", patterns: [] })
        }
      >
        <p>
          A loose set is a project with no document. It can be traced, sifted and sealed like any other. Its list is
          saved in the folder that holds the files; the files are not moved.
        </p>
        <label className="mt-2 block">
          <span className="text-[12px] text-faint">title</span>
          <Field className="w-full" value={title} onChange={(e) => setTitle(e.target.value)} />
        </label>
        <Trouble error={make.error} />
      </Confirm>
    </>
  );
}

/** Twice lists one content under several paths, and one name of several contents. */
export function Twice({ id }: { id: number }) {
  const { data, error } = useStrays(id);
  return (
    <Asked error={error} data={data} waiting="Comparing.">
      {(d) => (
        <div
          className="min-h-0 flex-1 overflow-auto border-t border-rule px-[18px] pt-3 pb-4"
          tabIndex={0}
          role="group"
          aria-label="Duplicates and same names"
        >
          <Section title="Same content" aside={d.known ? d.duplicates.length.toString() : ""}>
            <Twins of={d.duplicates} none={d.known ? "No duplicates." : "Comparing files of equal size."} />
          </Section>
          <Section title="Same name, other content" aside={d.namesakes.length.toString()}>
            <Twins of={d.namesakes} none="No two files have the same name." />
          </Section>
        </div>
      )}
    </Asked>
  );
}

function Twins({ of, none }: { of: readonly Twin[]; none: string }) {
  if (of.length === 0) return <p className="text-faint">{none}</p>;
  return (
    <ul>
      {of.map((t) => (
        <li key={t.labels.join()} className="border-b border-hair py-1.5">
          <b className="font-medium">{t.name}</b>{" "}
          {t.bytes > 0 ? <span className="font-mono text-[12px] text-faint">{bytes(t.bytes)} each</span> : null}
          <ul className="mt-0.5">
            {t.labels.map((l) => (
              <li key={l} className="truncate font-mono text-[11.5px] text-ink2" {...tip(l)}>
                {l}
              </li>
            ))}
          </ul>
        </li>
      ))}
    </ul>
  );
}
