import { useState } from "react";

import { useFolder } from "../api/queries";
import type { Entry } from "../api/types";
import { Field } from "./kit";
import { Button, Trouble } from "./parts";
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
}: {
  start?: string;
  chosen?: readonly string[];
  low?: boolean;
  onFolder?: (path: string, label: string) => void;
  onFile?: (e: Entry) => void;
  files?: (e: Entry) => boolean;
  /** any folder of this machine, not only those of the drives */
  machine?: boolean;
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
        <span className="truncate" {...tip(path)}>
          {data?.label ?? "…"}
        </span>
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
              onClick={() => (e.folder ? go(e.path, data?.path ? `${data.label}/${e.name}` : e.name) : onFile?.(e))}
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
    </div>
  );
}
