import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

import { DialogFoot } from "./kit";
import { Button } from "./parts";

/** Confirm asks before something is written to disk or cannot be undone. */
export function Confirm({
  open,
  onClose,
  title,
  children,
  act,
  onAct,
  busy,
  wide,
}: {
  open: boolean;
  onClose: () => void;
  title: string;
  children: ReactNode;
  act: string;
  onAct: () => void;
  busy?: boolean;
  wide?: boolean;
}) {
  return (
    <Sheet open={open} onClose={onClose} title={title} wide={wide}>
      <div className="px-5 pb-4">{children}</div>
      <DialogFoot>
        <Button onClick={onClose}>Cancel</Button>
        <Button kind="first" onClick={onAct} disabled={busy}>
          {act}
        </Button>
      </DialogFoot>
    </Sheet>
  );
}

/** Sheet is a dialog's paper. */
export function Sheet({
  open,
  onClose,
  title,
  children,
  wide,
}: {
  open: boolean;
  onClose: () => void;
  title: string;
  children: ReactNode;
  wide?: boolean;
}) {
  return (
    <Dialog.Root open={open} onOpenChange={(o) => !o && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-10 bg-head/45" />
        <Dialog.Content
          aria-describedby={undefined}
          className={`fixed top-1/2 left-1/2 z-20 flex max-h-[86vh] -translate-x-1/2 -translate-y-1/2 flex-col border border-ink bg-sheet ${wide ? "w-[720px]" : "w-[520px]"} max-w-[94vw]`}
        >
          <Dialog.Title className="px-5 pt-4 pb-2 text-[20px]">{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
