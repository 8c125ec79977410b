import { useEffect, useState } from "react";
import { useNavigate } from "react-router";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import { largest, upload } from "../api/upload";
import type { DroppedFile, DroppedList, NewProject } from "../api/types";
import { Sheet } from "../shared/Confirm";
import { DialogFoot } from "../shared/kit";
import { Button, Trouble } from "../shared/parts";
import { bytes } from "../shared/words";

const isArchive = (name: string) => /\.(zip|tar|tgz|tar\.gz|tar\.zst)$/i.test(name);

/** TakeIn takes archives in that are on no drive, one at a time. */
function TakeIn({ files, onPath }: { files: readonly File[]; onPath: (path: string) => void }) {
  const [sent, setSent] = useState(0);
  const [going, setGoing] = useState<AbortController | null>(null);
  const [error, setError] = useState<unknown>(null);
  const take = (f: File) => {
    const stop = new AbortController();
    setGoing(stop);
    setSent(0);
    setError(null);
    upload(f, setSent, stop.signal)
      .then(onPath)
      .catch((e: unknown) => {
        if (!stop.signal.aborted) setError(e);
      })
      .finally(() => setGoing(null));
  };
  return (
    <ul className="mt-2" aria-label="Archives on no drive">
      {files.map((f) => (
        <li key={f.name} className="flex items-center gap-3 border-b border-hair py-1">
          <span className="min-w-0 flex-1 truncate">
            {f.name} <span className="text-faint">{bytes(f.size)}</span>
          </span>
          {f.size > largest ? (
            <span className="text-[12px] text-ochre">larger than 2 GB: put it on a drive and choose it there</span>
          ) : going ? (
            <>
              <span className="font-mono text-[12px]">
                {bytes(sent)} of {bytes(f.size)}
              </span>
              <Button kind="small" onClick={() => going.abort()}>
                Stop
              </Button>
            </>
          ) : (
            <Button kind="small" onClick={() => take(f)}>
              Take in and receive
            </Button>
          )}
        </li>
      ))}
      <Trouble error={error} />
    </ul>
  );
}

/** Drop takes documents and crates that are dropped on the window: they are found on the drives, and opened. */
export function Drop() {
  const go = useNavigate();
  const [over, setOver] = useState(false);
  const [found, setFound] = useState<DroppedList | null>(null);
  const [names, setNames] = useState<string[]>([]);
  const [given, setGiven] = useState<readonly File[]>([]);
  const open = useAct(
    (p: NewProject) => acts.addProject(p),
    (p) => {
      setFound(null);
      void go(`/p/${p.id}/trace`);
    },
  );
  const take = (f: DroppedFile) => {
    if (f.archive && !f.format) {
      setFound(null);
      void go(`/receive?crate=${encodeURIComponent(f.path)}`);
    } else open.mutate({ documents: [f.path], root: "", name: "" });
  };
  const ask = useAct(
    (files: { name: string; size: number }[]) => acts.dropped({ files }),
    (out) => {
      const [only, ...more] = out.list;
      if (only && more.length === 0 && out.notFound.length === 0) take(only);
      else setFound(out);
    },
  );
  const { mutate } = ask;
  useEffect(() => {
    const files = (e: DragEvent) => e.dataTransfer?.types.includes("Files") ?? false;
    const drag = (e: DragEvent) => {
      if (!files(e)) return;
      e.preventDefault();
      setOver(true);
    };
    const leave = (e: DragEvent) => {
      if (!e.relatedTarget) setOver(false);
    };
    const drop = (e: DragEvent) => {
      if (!files(e)) return;
      e.preventDefault();
      setOver(false);
      const dropped = [...(e.dataTransfer?.files ?? [])];
      const list = dropped.map((f) => ({ name: f.name, size: f.size }));
      setGiven(dropped);
      setNames(list.map((f) => f.name));
      if (list.length > 0) mutate(list);
    };
    window.addEventListener("dragover", drag);
    window.addEventListener("dragleave", leave);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", drag);
      window.removeEventListener("dragleave", leave);
      window.removeEventListener("drop", drop);
    };
  }, [mutate]);
  const close = () => {
    setFound(null);
    ask.reset();
    open.reset();
  };
  const lone = given.filter((f) => isArchive(f.name) && (found?.notFound.includes(f.name) ?? false));
  const documents = found?.list.filter((f) => f.format) ?? [];
  return (
    <>
      {over ? (
        <div className="pointer-events-none fixed inset-0 z-30 grid place-items-center border-4 border-sea bg-sheet/80">
          <p className="text-[22px]">Drop documents or crates to open them</p>
        </div>
      ) : null}
      <Sheet
        open={found !== null || ask.error !== null || open.error !== null}
        onClose={close}
        title={names.length === 1 ? `Open “${names[0] ?? ""}”` : "Open dropped files"}
        wide
      >
        <div className="overflow-auto px-5 pb-4">
          {found && found.list.length > 0 ? (
            <ul aria-label="Found on your drives">
              {found.list.map((f) => (
                <li key={f.path} className="flex items-center gap-3 border-b border-hair py-1">
                  <span className="min-w-0 flex-1">
                    <span className="block truncate font-mono text-[12px]">{f.label}</span>
                    <span className="block text-[12px] text-faint">
                      {f.format || (f.archive ? "may be a crate" : "not a known document")}
                    </span>
                  </span>
                  <Button kind="small" disabled={!f.format && !f.archive} onClick={() => take(f)}>
                    {f.archive && !f.format ? "Receive" : "Open"}
                  </Button>
                </li>
              ))}
            </ul>
          ) : null}
          {found && found.notFound.length > 0 ? (
            <p className="mt-2 text-ochre">
              Not found in the index of your drives: {found.notFound.join(", ")}. A browser does not tell where a file
              is. Index its drive under Drives, or choose the document on the start page.
            </p>
          ) : null}
          {lone.length > 0 ? (
            <TakeIn
              files={lone}
              onPath={(path) => {
                setFound(null);
                void go(`/receive?crate=${encodeURIComponent(path)}`);
              }}
            />
          ) : null}
          <Trouble error={ask.error ?? open.error} />
        </div>
        <DialogFoot>
          {documents.length > 1 ? (
            <Button
              kind="first"
              disabled={open.isPending}
              onClick={() => open.mutate({ documents: documents.map((f) => f.path), root: "", name: "" })}
            >
              Open all {documents.length} as one project
            </Button>
          ) : null}
          <Button onClick={close}>Close</Button>
        </DialogFoot>
      </Sheet>
    </>
  );
}
