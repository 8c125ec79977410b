import { Popover } from "radix-ui";
import { useState } from "react";
import { Link, NavLink } from "react-router";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { AppState, Drive } from "../api/types";
import { Field } from "../shared/kit";
import { Button, Fact, Trouble } from "../shared/parts";
import { switchTheme } from "../shared/theme";
import { tip } from "../shared/Tip";
import { bytes, exact } from "../shared/words";
import { places } from "./stations";
import { Switcher } from "./Switcher";

export function Head({
  state,
  id,
  onHelp,
  switching,
  onSwitching,
}: {
  state: AppState | undefined;
  id: number;
  onHelp: () => void;
  switching: boolean;
  onSwitching: (open: boolean) => void;
}) {
  const linkLook = ({ isActive }: { isActive: boolean }) =>
    `caps border-b text-[15px] tracking-wide whitespace-nowrap ${isActive ? "border-brass text-headtext" : "border-headfaint/50 text-headtext hover:border-brass"}`;
  const documents = state?.projects.find((p) => p.id === id)?.documents;
  return (
    <header className="flex items-center gap-3.5 bg-head px-4 text-headtext narrow:flex-wrap narrow:gap-y-1.5 narrow:py-2">
      <Link to="/" className="flex items-center gap-3" aria-label="Bound Crate, all projects">
        <svg
          viewBox="0 0 22 22"
          width="20"
          height="20"
          className="text-brass"
          fill="none"
          stroke="currentColor"
          aria-hidden
        >
          <path d="M2 4h18v14H2z" strokeWidth="1.8" />
          <path d="M2 8.5h18M8 4v14M14 4v14" strokeWidth="1.2" />
        </svg>
        <span className="caps text-[19px] tracking-[.09em] whitespace-nowrap">Bound Crate</span>
      </Link>
      <Switcher state={state} id={id} open={switching} onOpen={onSwitching} />
      {documents?.[0]?.endsWith("/ro-crate-metadata.json") ? (
        <NavLink to={`/p/${id}/set`} className={linkLook} {...tip("the files of this loose set  l")}>
          Set
        </NavLink>
      ) : null}
      {id > 0 ? (
        <NavLink to={`/p/${id}/keep`} className={linkLook} {...tip("editions of the documents, and backups  h")}>
          Keep
        </NavLink>
      ) : null}
      <span className="flex-1" />
      {(state?.drives ?? []).map((d) => (
        <Tank key={d.id} drive={d} />
      ))}
      {places
        .slice(1)
        .filter((p) => !p.quiet)
        .map((p) => (
          <NavLink key={p.path} to={`/${p.path}`} className={linkLook} {...tip(`${p.asks}  ${p.key}`)}>
            {p.name}
          </NavLink>
        ))}
      <button
        type="button"
        onClick={switchTheme}
        aria-label="Light or dark"
        {...tip("Light or dark  n")}
        className="px-1"
      >
        <svg viewBox="0 0 16 16" width="15" height="15" aria-hidden>
          <circle cx="8" cy="8" r="6.2" fill="none" stroke="currentColor" strokeWidth="1.4" />
          <path d="M8 1.8a6.2 6.2 0 0 1 0 12.4z" fill="currentColor" />
        </svg>
      </button>
      <button
        type="button"
        onClick={onHelp}
        aria-label="All keys"
        className="rounded-xs border border-headfaint/60 px-1.5 font-mono text-[12px]"
      >
        ?
      </button>
    </header>
  );
}

const kinds: Record<string, string> = {
  fixed: "A fixed drive",
  removable: "A removable drive",
  network: "A network drive",
  optical: "An optical drive",
  synced: "A folder that another program syncs",
};

/** Tank is a drive in the head: filled as far as the drive is, dashed when it is not connected. */
function Tank({ drive }: { drive: Drive }) {
  const used = drive.total > 0 ? (drive.total - drive.free) / drive.total : 0;
  const plug = useAct((connected: boolean) => acts.plug(drive.id, { connected }));
  return (
    <Popover.Root>
      <Popover.Trigger
        className={`flex items-center gap-1.5 text-[12px] ${drive.connected ? "" : "text-headfaint"}`}
        aria-label={`Drive ${drive.name}, ${drive.silent ? "not responding" : drive.connected ? `${Math.round(used * 100)} of 100 full` : "not connected"}`}
      >
        <svg
          viewBox="0 0 12 20"
          width="12"
          height="20"
          aria-hidden
          className={drive.connected ? "text-headfaint" : "text-brass"}
        >
          {drive.connected ? (
            <rect x="1.5" y={1.5 + 17 * (1 - used)} width="9" height={17 * used} className="fill-tank" />
          ) : null}
          <rect
            x=".7"
            y=".7"
            width="10.6"
            height="18.6"
            fill="none"
            stroke="currentColor"
            strokeWidth="1.3"
            strokeDasharray={drive.connected ? undefined : "3 2"}
          />
        </svg>
        <span className="max-[1160px]:sr-only">{drive.name}</span>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={8}
          className="z-20 w-72 border border-ink bg-sheet p-3 text-ink"
          aria-label={`Drive ${drive.name}`}
        >
          <h2 className="text-[18px]">{drive.name}</h2>
          <p className="mb-2 text-ink2">{`${kinds[drive.kind] ?? "A drive"}${drive.silent ? ", not responding" : drive.connected ? "" : ", not connected"}${drive.standIn ? ". Simulated: plug and unplug it here." : "."}`}</p>
          <dl>
            <Fact name="folder">{drive.dir}</Fact>
            {drive.connected ? (
              <Fact name="free" more={exact(drive.free)}>
                {bytes(drive.free)} of {bytes(drive.total)}
              </Fact>
            ) : null}
          </dl>
          <Trouble error={plug.error} />
          <Rename drive={drive} />
          {drive.standIn ? (
            <Button
              kind={drive.connected ? "plain" : "first"}
              className="mt-2 w-full"
              disabled={plug.isPending}
              onClick={() => plug.mutate(!drive.connected)}
            >
              {drive.connected ? "Unplug" : "Plug in"}
            </Button>
          ) : null}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** Rename names a drive, or forgets it: nothing on it is touched. */
function Rename({ drive }: { drive: Drive }) {
  const [name, setName] = useState(drive.name);
  const rename = useAct((to: string) => acts.nameDrive(drive.id, { name: to, dir: "" }));
  const drop = useAct(() => acts.dropDrive(drive.id));
  const busy = rename.isPending || drop.isPending;
  return (
    <form
      className="mt-2 border-t border-hair pt-2"
      onSubmit={(e) => {
        e.preventDefault();
        rename.mutate(name);
      }}
    >
      <label className="flex items-center gap-2">
        <span className="text-[12px] text-faint">name</span>
        <Field low className="min-w-0 flex-1" value={name} onChange={(e) => setName(e.target.value)} />
        <Button kind="small" type="submit" disabled={busy || name.trim() === "" || name === drive.name}>
          Rename
        </Button>
        <Button
          kind="small"
          disabled={busy}
          onClick={() => drop.mutate(undefined)}
          {...tip("Remove this drive from Bound Crate. Its files are not changed.")}
        >
          Forget
        </Button>
      </label>
      <Trouble error={rename.error ?? drop.error} />
    </form>
  );
}
