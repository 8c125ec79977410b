import { useEffect, useRef, useState } from "react";

import * as acts from "../api/acts";
import { useAct, useFolder } from "../api/queries";
import type { Entry } from "../api/types";
import { Field } from "./kit";
import { Button, Trouble } from "./parts";
import { lastPlaces, rememberPlace } from "./places";
import { tip } from "./Tip";
import { bytes, count } from "./words";

/**
 * FolderPicker walks the drives. pick says what a click on a file or folder
 * chooses; folders are always entered by their name.
 */
export function FolderPicker({
  start = "",
  chosen = [],
  onFolder,
  onFile,
  files,
  low,
  machine = false,
  makes = false,
}: {
  start?: string;
  chosen?: readonly string[];
  low?: boolean;
  onFolder?: (path: string, label: string) => void;
  onFile?: (e: Entry) => void;
  files?: (e: Entry) => boolean;
  /** any folder of this machine, not only those of the drives */
  machine?: boolean;
  /** a new folder can be made */
  makes?: boolean;
}) {
  const [path, setPath] = useState(start);
  const [holds, setHolds] = useState("");
  const { data: parts, error, hasNextPage, isFetchingNextPage, fetchNextPage } = useFolder(path, holds, machine);
  const data = parts?.pages[0];
  const have = parts?.pages.reduce((n, p) => n + p.entries.length, 0) ?? 0;
  const go = (p: string, label: string) => {
    setPath(p);
    setHolds("");
    onFolder?.(p, label);
  };
  const [places] = useState(lastPlaces);
  const last = useRef("");
  const chose = path !== start && onFolder && !machine ? path : "";
  useEffect(() => {
    last.current = chose;
  }, [chose]);
  useEffect(() => () => rememberPlace(last.current), []);
  const shown = parts?.pages.flatMap((p) => p.entries).filter((e) => e.folder || (files?.(e) ?? false)) ?? [];
  const long = holds !== "" || (data?.total ?? 0) > 100;
  return (
    <div className="flex shrink-0 flex-col border border-rule bg-field">
      <div className="flex items-center gap-2 border-b border-rule bg-band px-3 py-1.5 font-mono text-[12px]">
        {data?.parent !== null && data ? (
          <button
            type="button"
            className="rounded-xs border border-rule bg-sheet px-1.5 hover:border-ink"
            onClick={() => go(data.parent ?? "", "")}
          >
            up
          </button>
        ) : null}
        <PathField key={path} path={path} label={data?.label ?? "…"} onGo={(p) => go(p, p)} />
        {long ? (
          <Field
            low
            className="ml-auto w-28 text-[12px]"
            placeholder="name contains"
            aria-label="Only names that contain"
            value={holds}
            onChange={(e) => setHolds(e.target.value)}
          />
        ) : null}
      </div>
      <Trouble error={error} />
      <ul className={`${low ? "h-29" : "h-60"} overflow-auto`} aria-label="Folder contents">
        {shown.map((e) => (
          <li key={e.path}>
            <button
              type="button"
              disabled={e.gone}
              aria-pressed={e.folder ? undefined : chosen.includes(e.path)}
              onClick={() => {
                if (e.folder) return go(e.path, data?.path ? `${data.label}/${e.name}` : e.name);
                if (!machine) rememberPlace(path);
                onFile?.(e);
              }}
              className={`grid w-full grid-cols-[18px_minmax(0,max-content)_minmax(0,1fr)] items-center gap-2 border-b border-hair px-3 py-1 text-left hover:bg-band ${chosen.includes(e.path) ? "bg-seawash" : ""}`}
            >
              <span aria-hidden className="font-mono text-faint">
                {e.folder ? "▸" : "·"}
              </span>
              <span className={`truncate ${e.folder ? "font-medium" : ""}`}>{e.name}</span>
              <span className="truncate text-right text-[12px] text-faint">
                {e.gone
                  ? "not connected"
                  : e.folder
                    ? ""
                    : `${e.format ? `opens as ${e.format} · ` : ""}${bytes(e.size)}`}
              </span>
            </button>
          </li>
        ))}
        {data && shown.length === 0 && !hasNextPage ? (
          <li className="p-4 text-faint">Nothing to choose in this folder.</li>
        ) : null}
        {hasNextPage ? (
          <li className="p-2 text-center">
            <Button kind="small" disabled={isFetchingNextPage} onClick={() => void fetchNextPage()}>
              {`more: ${count(data!.total - have)} of ${count(data!.total)} are not listed`}
            </Button>
          </li>
        ) : null}
      </ul>
      {data && path === start && places.length > 0 && !machine ? (
        <p className="flex flex-wrap items-center gap-1.5 border-t border-rule px-3 py-1 text-[12px] text-faint">
          recent
          {places.map((p) => (
            <button
              key={p}
              type="button"
              className="max-w-44 truncate rounded-xs border border-rule px-1.5 font-mono text-[11.5px] text-ink2 hover:border-ink"
              onClick={() => go(p, p)}
              {...tip(p)}
            >
              {p.split("/").slice(-2).join("/")}
            </button>
          ))}
        </p>
      ) : null}
      {makes && path !== "" ? <NewFolder dir={path} onMade={(p, label) => go(p, label)} /> : null}
    </div>
  );
}

/** PathField is where the picker stands: a click makes it a field to type or paste a path into. */
function PathField({ path, label, onGo }: { path: string; label: string; onGo: (path: string) => void }) {
  const [text, setText] = useState<string | null>(null);
  if (text === null)
    return (
      <button
        type="button"
        aria-label={`Folder ${label}. Type a path`}
        className="min-w-0 flex-1 cursor-text truncate text-left"
        onClick={() => setText(path)}
        {...tip(path || "Type a path")}
      >
        {label}
      </button>
    );
  return (
    <Field
      low
      autoFocus
      className="min-w-0 flex-1 text-[12px]"
      aria-label="Path"
      placeholder="/full/path"
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => setText(null)}
      onKeyDown={(e) => {
        if (e.key === "Enter") {
          e.preventDefault();
          onGo(text.trim().replace(/(.)\/+$/, "$1"));
        }
        if (e.key === "Escape") {
          e.stopPropagation();
          setText(null);
        }
      }}
    />
  );
}

/** NewFolder makes a folder where the picker stands, and enters it. */
function NewFolder({ dir, onMade }: { dir: string; onMade: (path: string, label: string) => void }) {
  const [name, setName] = useState<string | null>(null);
  const make = useAct(
    (n: string) => acts.makeFolder({ dir, name: n }),
    (made) => {
      setName(null);
      onMade(made.path, made.label);
    },
  );
  if (name === null)
    return (
      <div className="border-t border-rule px-3 py-1">
        <Button kind="small" onClick={() => setName("")}>
          New folder
        </Button>
      </div>
    );
  return (
    <div className="border-t border-rule px-3 py-1">
      <div className="flex items-center gap-2">
        <Field
          low
          autoFocus
          className="min-w-0 flex-1 text-[12px]"
          aria-label="Name of the new folder"
          placeholder="name"
          value={name}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter") {
              e.preventDefault();
              if (name.trim() !== "") make.mutate(name);
            }
            if (e.key === "Escape") {
              e.stopPropagation();
              setName(null);
            }
          }}
        />
        <Button kind="small" disabled={name.trim() === "" || make.isPending} onClick={() => make.mutate(name)}>
          Create
        </Button>
      </div>
      <Trouble error={make.error} />
    </div>
  );
}
