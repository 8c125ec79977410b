import { Sheet } from "../shared/Confirm";
import { setSingleKeys, useSingleKeys } from "../shared/keys";
import { DialogFoot, TextLink } from "../shared/kit";
import { Button, Chip } from "../shared/parts";
import { Guide } from "./Guide";
import { places, stations, views } from "./stations";

const keys: [string, string][] = [
  ...stations.map((s): [string, string] => [s.key, `${s.name}: ${s.asks}`]),
  ...views.map((s): [string, string] => [s.key, `${s.name}: ${s.asks}`]),
  ...places.map((s): [string, string] => [s.key, `${s.name}: ${s.asks}`]),
  ["p", "switch the project"],
  ["/", "filter the list"],
  ["j  k  ↓  ↑", "next and previous row"],
  ["Shift ↓  ↑", "select several rows"],
  ["a  g  Esc", "select all rows, all under the same heading, none"],
  ["o", "choose columns"],
  ["Space", "play or stop the sound"],
  ["m", "relink the selected file"],
  ["c", "copy its path"],
  ["x", "let the selected files travel or stay (Sift, Stow)"],
  ["Enter", "use the candidate if it has no warnings (Mend)"],
  ["y", "relink the selected files to their best candidates (Mend)"],
  ["s  z", "keep an edition, restore one (Keep)"],
  ["x", "compare with another edition (Keep)"],
  ["u  U", "undo or redo the last decision"],
  ["t", "trace again"],
  ["n", "light or dark"],
  ["?", "show this list"],
];

const states: [string, string][] = [
  ["here", "inside the project folder"],
  ["away", "found outside it"],
  ["missing", "not found at the path in the document"],
  ["unplugged", "on a drive that is not connected"],
  ["twins", "more than one file matches"],
  ["unsaved", "reserved for a file that was never saved"],
  ["inside", "stored inside the document"],
  ["unreadable", "exists but cannot be read"],
];

export function Help({ open, onClose }: { open: boolean; onClose: () => void }) {
  const single = useSingleKeys();
  return (
    <Sheet open={open} onClose={onClose} title="Help" wide>
      <div className="overflow-auto px-5 pb-4" tabIndex={0} role="group" aria-label="Help">
        <Guide />
        <h3 className="caps mt-2 mb-1 text-[14px]">Keys and words</h3>
        <div className="grid grid-cols-2 gap-8 narrow:grid-cols-1">
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
              Nothing on disk changes until you choose to write. Repairs are saved in Bound Crate and can be undone. A
              crate is a copy; the originals are only read.
            </p>
            <p className="mt-3 mb-1.5 text-ink2">
              If you use speech input, or press keys by accident, turn these off. Arrows, Enter, Space and Tab keep
              working.
            </p>
            <Chip on={single} onClick={() => setSingleKeys(!single)}>
              {single ? "Single-letter keys on" : "Single-letter keys off"}
            </Chip>
            <p className="mt-3">
              <TextLink to="/settings">Settings, version and licences</TextLink>
            </p>
          </div>
        </div>
      </div>
      <DialogFoot>
        <Button onClick={onClose}>Close</Button>
      </DialogFoot>
    </Sheet>
  );
}
