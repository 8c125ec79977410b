import type { ReactNode } from "react";

import type { AimLine } from "../api/types";
import { Sheet } from "./Confirm";
import { Lines } from "./Lines";
import { DialogFoot } from "./kit";
import { Button } from "./parts";

/** LinesSheet shows the lines that change in documents, before they are written. */
export function LinesSheet({
  open,
  title,
  says,
  lines,
  busy,
  onClose,
  onWrite,
  children,
}: {
  open: boolean;
  title: string;
  says: string;
  lines: readonly AimLine[];
  busy: boolean;
  onClose: () => void;
  onWrite: () => void;
  children?: ReactNode;
}) {
  return (
    <Sheet open={open} onClose={onClose} title={title} wide>
      <div className="min-h-0 overflow-auto px-5 pb-3" tabIndex={0} role="group" aria-label="Lines that change">
        <p className="mb-2 text-ink2">{says}</p>
        <Lines lines={lines} />
        {children}
      </div>
      <DialogFoot>
        <Button onClick={onClose}>Cancel</Button>
        <Button kind="first" disabled={busy || lines.length === 0} onClick={onWrite}>
          Write
        </Button>
      </DialogFoot>
    </Sheet>
  );
}
