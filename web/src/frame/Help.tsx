import { Sheet } from "../shared/Confirm";
import { setSingleKeys, useSingleKeys } from "../shared/keys";
import { DialogFoot } from "../shared/kit";
import { Button, Chip } from "../shared/parts";
import { places, stations, views } from "./stations";

const keys: [string, string][] = [
  ...stations.map((s): [string, string] => [s.key, `${s.name}: ${s.asks}`]),
  ...views.map((s): [string, string] => [s.key, `${s.name}: ${s.asks}`]),
  ...places.map((s): [string, string] => [s.key, `${s.name}: ${s.asks}`]),
  ["p", "switch the project"],
  ["/", "filter the list"],
  ["j  k  ↓  ↑", "next and previous row"],
  ["Shift ↓  ↑", "choose several rows"],
  ["a  f  Esc", "choose all rows, all under the same heading, none"],
  ["o", "which columns show"],
  ["Space", "play or stop the sound"],
  ["m", "mend what is selected"],
  ["c", "copy its path"],
  ["x", "what is chosen travels or stays (in Sift and Stow)"],
  ["Enter", "use the candidate, if nothing speaks against it (in Mend)"],
  ["u  U", "undo the last decision, redo it"],
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
  const single = useSingleKeys();
  return (
    <Sheet open={open} onClose={onClose} title="Keys and words" wide>
      <div
        className="grid grid-cols-2 gap-8 overflow-auto px-5 pb-4"
        tabIndex={0}
        role="group"
        aria-label="Keys and words"
      >
        <dl>
          {keys.map(([k, what]) => (
            <div key={k} className="grid grid-cols-[88px_1fr] border-b border-hair py-0.5">
              <dt className="font-mono text-[12px]">{k}</dt>
              <dd>{what}</dd>
            </div>
          ))}
        </dl>
        <div>
          <dl>
            {states.map(([s, what]) => (
              <div key={s} className="grid grid-cols-[90px_1fr] border-b border-hair py-0.5">
                <dt className="font-medium">{s}</dt>
                <dd>{what}</dd>
              </div>
            ))}
          </dl>
          <p className="mt-3 text-ink2">
            Nothing on disk changes until you say so. Repairs are kept here and can be undone; a crate is a copy, and
            the originals are only read.
          </p>
          <p className="mt-3 mb-1.5 text-ink2">
            If you speak your input, or touch keys without meaning to, turn letters and signs off. Arrows, Enter, Space
            and Tab stay.
          </p>
          <Chip on={single} onClick={() => setSingleKeys(!single)}>
            {single ? "Single letters are keys" : "Single letters are off"}
          </Chip>
        </div>
      </div>
      <DialogFoot>
        <Button onClick={onClose}>Close</Button>
      </DialogFoot>
    </Sheet>
  );
}
