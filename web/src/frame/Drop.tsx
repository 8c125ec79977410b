import { useEffect, useState } from "react";
import { useNavigate } from "react-router";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { DroppedFile, DroppedList, NewProject } from "../api/types";
import { Sheet } from "../shared/Confirm";
import { DialogFoot } from "../shared/kit";
import { Button, Trouble } from "../shared/parts";

/** Drop takes documents and crates that are dropped on the window: they are found on the drives, and opened. */
export function Drop() {
  const go = useNavigate();
  const [over, setOver] = useState(false);
  const [found, setFound] = useState<DroppedList | null>(null);
  const [names, setNames] = useState<string[]>([]);
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
      const list = [...(e.dataTransfer?.files ?? [])].map((f) => ({ name: f.name, size: f.size }));
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
