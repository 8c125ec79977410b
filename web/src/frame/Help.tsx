import { Sheet } from "../shared/Confirm";
import { Button } from "../shared/parts";

const keys: [string, string][] = [
  ["1 – 5", "go to a station"],
  ["p", "switch the project"],
  ["/", "filter the list"],
  ["j  k  or arrows", "next and previous row"],
  ["Space", "play or stop the sound"],
  ["m", "mend what is selected"],
  ["c", "copy its path"],
  ["Enter", "use the candidate (in Mend)"],
  ["u", "undo the last repair (in Mend)"],
  ["t", "trace again"],
  ["n", "day or night"],
  ["?", "this list"],
];

const states: [string, string][] = [
  ["here", "inside the project folder"],
  ["away", "found outside it"],
  ["missing", "not found where the document says"],
  ["unplugged", "on a drive that is not connected"],
  ["twins", "more than one file could be meant"],
  ["unsaved", "a place kept for a file never written"],
  ["inside", "the bytes stand in the document itself"],
  ["unreadable", "there, and cannot be read"],
];

export function Help({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Sheet open={open} onClose={onClose} title="Keys and words" wide>
      <div className="grid grid-cols-2 gap-8 overflow-auto px-5 pb-4">
        <dl>
          {keys.map(([k, what]) => (
            <div key={k} className="grid grid-cols-[120px_1fr] border-b border-hair py-1">
              <dt className="font-mono text-[12px]">{k}</dt>
              <dd>{what}</dd>
            </div>
          ))}
        </dl>
        <dl>
          {states.map(([s, what]) => (
            <div key={s} className="grid grid-cols-[90px_1fr] border-b border-hair py-1">
              <dt className="font-medium">{s}</dt>
              <dd>{what}</dd>
            </div>
          ))}
          <p className="mt-3 text-ink2">Nothing on disk changes until you say so. Repairs are kept here and can be undone; a crate is a copy, and the originals are only read.</p>
        </dl>
      </div>
      <div className="flex justify-end border-t border-rule bg-band px-5 py-3">
        <Button onClick={onClose}>Close</Button>
      </div>
    </Sheet>
  );
}
