import { DropdownMenu } from "radix-ui";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { AppState, CrateOffer, Health, NewProject, StockRow } from "../api/types";
import { Confirm } from "../shared/Confirm";
import { CsvButton } from "../shared/Csv";
import { Mark } from "../shared/Mark";
import { OrderFilter, OrderHead, ordered, useOrder, type By } from "../shared/Order";
import { TextLink } from "../shared/kit";
import { Asked, Button, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural, when } from "../shared/words";

const columns =
  "grid grid-cols-[minmax(0,1fr)_minmax(0,200px)_92px_92px_120px_44px] max-[1100px]:grid-cols-[minmax(0,1fr)_150px_92px_100px_44px] max-[1100px]:[&>:nth-child(4)]:hidden min-[1600px]:grid-cols-[minmax(0,1fr)_300px_120px_120px_180px_80px] items-center gap-3 px-[18px] max-[560px]:grid-cols-[minmax(0,1fr)_auto] max-[560px]:[&>:nth-child(3)]:hidden max-[560px]:[&>:nth-child(5)]:hidden max-[560px]:[&>:nth-child(2)]:col-span-full max-[560px]:[&>:nth-child(2)]:row-start-2";

/** Survey: every project with its health at a glance, by the folder it lies in, the worst first. */
export function Survey({ state }: { state: AppState }) {
  const order = useOrder();
  const { data, error } = useQuery(acts.stock());
  const look = useAct(() => acts.takeStock());
  const running = state.jobs.some((j) => j.kind === "stock" && j.state === "running");
  return (
    <Asked error={error} data={data} waiting="Loading your projects.">
      {(stock) => {
        const rows = stock.groups.flatMap((g) => g.rows);
        const shown = stock.groups
          .map((g) => ({ ...g, rows: ordered(g.rows, order, by, (r) => `${r.name} ${r.label}`) }))
          .filter((g) => g.rows.length > 0);
        const projects = rows.filter((r) => r.project);
        const lone = rows.length - projects.length;
        const known = projects.filter((r) => r.health);
        const ill = known.filter((r) => r.health && ails(r.health) > 0).length;
        return (
          <>
            <div className="flex items-start gap-4 px-[18px] pt-3 pb-3">
              <div className="min-w-0 flex-1">
                <h2 className="text-[24px]">Survey</h2>
                <p className="max-w-[78ch] text-[15px] leading-snug">
                  {rows.length === 0 ? (
                    "No project yet. Choose a project document on the right: every file it references will be traced."
                  ) : known.length === 0 ? (
                    `${plural(projects.length, "project")}, not checked yet. Check all of them, or open one.`
                  ) : ill === 0 ? (
                    <b className="font-semibold text-moss">
                      {known.length === projects.length
                        ? `${plural(known.length, "project")}, no problems.`
                        : `${known.length} of ${plural(projects.length, "project")} checked, no problems.`}
                    </b>
                  ) : (
                    <>
                      <b className="font-semibold text-rust">
                        {ill} of {plural(known.length, "project")}
                      </b>{" "}
                      {ill === 1 ? "needs" : "need"} attention.
                      {lone > 0 ? ` ${plural(lone, "document belongs", "documents belong")} to no project yet.` : ""}
                    </>
                  )}
                </p>
                {state.demo ? (
                  <p className="max-w-[78ch] text-[12.5px] text-faint">
                    Sample data: the Saltmarsh Lightship, a made-up museum. Open “Tide Clock film” and follow the five
                    stations from left to right.
                  </p>
                ) : null}
                <Trouble error={look.error} />
              </div>
              <span className="flex items-center gap-2 self-center text-[12px] text-faint">
                <OrderFilter order={order} label="Filter projects" />
                <CsvButton name="projects" rows={() => asRows(rows)} />
              </span>
              <Button disabled={running || look.isPending} onClick={() => look.mutate(undefined)}>
                {running
                  ? "Checking all projects"
                  : known.length === 0
                    ? "Check all projects"
                    : "Check all projects again"}
              </Button>
            </div>
            {rows.length > 0 ? (
              <div className={`${columns} border-y border-rule bg-band py-1 text-[11.5px] text-faint`}>
                <OrderHead order={order} by="name" word="project" />
                <OrderHead order={order} by="problems" word="problems" />
                <OrderHead order={order} by="at" word="checked" />
                <OrderHead order={order} by="sealed" word="sealed" />
                <OrderHead order={order} by="backup" word="backed up" />
                <span />
              </div>
            ) : null}
            {shown.length === 0 && rows.length > 0 ? (
              <p className="px-[18px] py-3 text-faint">No projects match the filter.</p>
            ) : null}
            {shown.map((g) => (
              <section key={g.label} aria-label={g.label}>
                <h3
                  className="truncate border-b border-hair bg-band px-[18px] py-1 font-mono text-[12px]"
                  {...tip(g.label)}
                >
                  {g.label}
                </h3>
                <Several rows={g.rows} />
                <ul>
                  {g.rows.map((r) => (
                    <Row key={r.project?.id ?? r.document} row={r} />
                  ))}
                </ul>
              </section>
            ))}
          </>
        );
      }}
    </Asked>
  );
}

const by: By<StockRow> = {
  name: (r) => r.name,
  problems: (r) => (r.health ? ails(r.health) : -1),
  at: (r) => r.at ?? "",
  sealed: (r) => r.sealed ?? "",
  backup: (r) => r.backup ?? "",
};

/** asRows are the projects as a table. */
const asRows = (rows: readonly StockRow[]) => [
  [
    "project",
    "document",
    "problems",
    "missing",
    "unplugged",
    "outside",
    "checked",
    "sealed",
    "complete",
    "backed up",
    "verified",
    "overdue",
  ],
  ...rows.map((r) => [
    r.name,
    r.label,
    r.health ? String(ails(r.health)) : "",
    r.health ? String(lost(r.health)) : "",
    r.health ? String(r.health.unplugged) : "",
    r.health ? String(r.health.away) : "",
    r.at ?? "",
    r.sealed ?? "",
    r.sealed ? (r.complete ? "yes" : "no") : "",
    r.backup ?? "",
    r.verified ?? "",
    r.overdue,
  ]),
];

/** ails counts what needs somebody. */
const ails = (h: Health) =>
  (h.error ? 1 : 0) + lost(h) + h.unreadable + h.unplugged + h.unsaved + h.suspect + h.writesOut;

/** lost counts what is missing and nothing makes again. */
const lost = (h: Health) => h.missing + h.unused + h.gapped + h.twins;

function Row({ row: r }: { row: StockRow }) {
  const go = useNavigate();
  const [dropping, setDropping] = useState(false);
  const drop = useAct(
    (id: number) => acts.dropProject(id),
    () => setDropping(false),
  );
  const open = useAct(
    (p: NewProject) => acts.addProject(p),
    (p) => void go(`/p/${p.id}/trace`),
  );
  const id = r.project?.id;
  return (
    <li className={`${columns} border-b border-hair py-1 hover:bg-band`}>
      <span className="min-w-0">
        {id ? (
          <Link
            to={`/p/${id}/trace`}
            className="block truncate text-[15px] leading-tight font-semibold text-sea underline-offset-2 hover:underline"
          >
            {r.name}
          </Link>
        ) : (
          <span className="block truncate text-[14px] leading-tight">
            {r.name} <span className="text-[12px] text-faint">no project yet</span>
          </span>
        )}
        <span className="block truncate font-mono text-[11.5px] text-faint" {...tip(r.label)}>
          {r.label.split("/").slice(-2).join("/")}
        </span>
        {r.offer ? <Offered offer={r.offer} documents={r.project?.documents ?? [r.document]} /> : null}
      </span>
      <Marks health={r.health} />
      <span className="font-mono text-[11.5px] text-faint">{r.at ? when(r.at) : "—"}</span>
      <span className={`font-mono text-[11.5px] ${r.sealed && !r.complete ? "text-ochre" : "text-faint"}`}>
        {r.sealed ? when(r.sealed) : "—"}
      </span>
      <Backup row={r} />
      {id ? (
        <RowMenu name={r.name} onOpen={() => void go(`/p/${id}/trace`)} onForget={() => setDropping(true)} />
      ) : (
        <Button
          kind="small"
          disabled={open.isPending}
          aria-label={`Open ${r.name}`}
          onClick={() => open.mutate({ documents: [r.document], root: "", name: r.name.replace(/\.[^.]*$/, "") })}
        >
          Open
        </Button>
      )}
      <Trouble error={open.error} />
      <Confirm
        open={dropping}
        onClose={() => setDropping(false)}
        title={`Forget “${r.name}”?`}
        act="Forget"
        busy={drop.isPending}
        onAct={() => id && drop.mutate(id)}
      >
        <p>Its repairs and choices in Bound Crate are deleted. This cannot be undone. No file is changed.</p>
        <Trouble error={drop.error} />
      </Confirm>
    </li>
  );
}

/** Backup is when a project was last backed up, and what of that is overdue. */
function Backup({ row: r }: { row: StockRow }) {
  const day = (iso: string) => when(iso).replace(/,[^,]*$/, "");
  if (r.overdue)
    return (
      <span className="line-clamp-2 text-[12px] leading-tight text-ochre" {...tip(r.overdue)}>
        {r.overdue}
      </span>
    );
  if (r.backup)
    return (
      <span className="font-mono text-[11.5px] text-faint">
        {day(r.backup)}
        {r.verified ? <span className="block text-moss">verified {day(r.verified)}</span> : null}
      </span>
    );
  return (
    <span
      className="truncate text-[11.5px] text-faint"
      {...tip(r.backed ? `A complete crate is on ${r.backed}` : "No backup: see Keep")}
    >
      {r.backed ? <span className="text-moss">crate on {r.backed}</span> : "—"}
    </span>
  );
}

/** Offered is a crate that holds files by the names of those missing: receiving it tells whether they are. */
function Offered({ offer, documents }: { offer: CrateOffer; documents: readonly string[] }) {
  const ask = new URLSearchParams([["crate", offer.crate], ...documents.map((d) => ["for", d])]);
  return (
    <span className="block truncate text-[12px] text-ink2" {...tip(offer.label)}>
      {plural(offer.files, "missing file")} may be in{" "}
      <TextLink to={`/receive?${ask.toString()}`}>{offer.label.split("/").at(-1)}</TextLink>
    </span>
  );
}

/** Several opens the documents of one folder that belong to no project, together. */
function Several({ rows }: { rows: readonly StockRow[] }) {
  const go = useNavigate();
  const lone = rows.filter((r) => !r.project);
  const open = useAct(
    (p: NewProject) => acts.addProject(p),
    (p) => void go(`/p/${p.id}/trace`),
  );
  if (lone.length < 2) return null;
  return (
    <div className="flex items-center gap-3 border-b border-hair px-[18px] py-1">
      <Button
        kind="small"
        disabled={open.isPending}
        onClick={() => open.mutate({ documents: lone.map((r) => r.document), root: "", name: "" })}
      >
        Open all {lone.length} as one project
      </Button>
      <span className="truncate text-[12px] text-faint">{lone.map((r) => r.name).join(", ")}</span>
      <Trouble error={open.error} />
    </div>
  );
}

/** RowMenu is what can be done with a project of the list. */
function RowMenu({ name, onOpen, onForget }: { name: string; onOpen: () => void; onForget: () => void }) {
  const item = "block cursor-pointer px-3 py-1.5 outline-none data-[highlighted]:bg-seawash";
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label={`More about ${name}`}
        className="justify-self-end rounded-xs border border-rule px-2 text-ink2 hover:border-ink"
      >
        ⋯
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" sideOffset={4} className="z-20 border border-ink bg-sheet py-1 text-ink">
          <DropdownMenu.Item className={item} onSelect={onOpen}>
            Open
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={onForget}>
            Forget…
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** Marks are what ails a project, each with its count; what does not ail it is not drawn. */
function Marks({ health: h }: { health: Health | null }) {
  if (!h) return <span className="text-[12px] text-faint">not checked yet</span>;
  if (h.error)
    return (
      <span className="truncate text-[12px] text-rust" {...tip(h.error)}>
        could not be read
      </span>
    );
  const list = [
    { state: "missing", n: lost(h), say: "missing, incomplete or ambiguous" },
    { state: "unreadable", n: h.unreadable, say: "cannot be read" },
    { state: "unsaved", n: h.unsaved, say: "never saved" },
    { state: "unplugged", n: h.unplugged, say: "on a drive that is not connected" },
    { state: "away", n: h.away, say: "outside the project folder" },
  ].filter((m) => m.n > 0);
  if (list.length === 0 && h.writesOut === 0 && h.allHere)
    return <span className="text-[12.5px] text-moss">all {plural(h.files, "file")} here</span>;
  const rest = [
    h.suspect > 0 && `${plural(h.suspect, "file")} may be damaged or the wrong one`,
    h.problems > 0 && plural(h.problems, "problem"),
    h.unread > 0 && `${plural(h.unread, "folder")} could not be read`,
    h.unrecognised > 0 && `${plural(h.unrecognised, "document")} not recognised`,
  ].filter(Boolean);
  return (
    <span className="flex min-w-0 flex-wrap items-center gap-x-3 gap-y-0.5">
      {rest.length > 0 ? <span className="text-[12px] text-rust">{rest.join(", ")}</span> : null}
      {rest.length === 0 && list.length === 0 && h.writesOut === 0 ? (
        <span className="text-[12.5px]">{plural(h.files, "file")} found</span>
      ) : null}
      {h.writesOut > 0 ? (
        <span
          className="flex items-center gap-1 text-ochre"
          {...tip(plural(h.writesOut, "write point leads", "write points lead") + " out of the project")}
        >
          <svg
            viewBox="0 0 14 14"
            width="14"
            height="14"
            role="img"
            aria-label="write points that lead out"
            fill="none"
          >
            <path d="M5.5 1.5v11M1 7h11M9 4l3 3l-3 3" stroke="currentColor" strokeWidth="1.5" />
          </svg>
          <span className="font-mono text-[12px]">{h.writesOut}</span>
        </span>
      ) : null}
      {list.map((m) => (
        <span key={m.state} className="flex items-center gap-1" {...tip(`${m.n} ${m.say}`)}>
          <Mark state={m.state} />
          <span className="font-mono text-[12px]">{m.n}</span>
        </span>
      ))}
    </span>
  );
}
