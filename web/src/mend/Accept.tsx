import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import { trial } from "../api/client";
import { useAct } from "../api/queries";
import type { Accept as Request } from "../api/types";
import type { Selection } from "../ledger/selection";
import { Confirm } from "../shared/Confirm";
import { Check } from "../shared/kit";
import { Trouble } from "../shared/parts";
import { plural } from "../shared/words";
import { Certainty } from "./Certainty";
import { Replacement } from "./Replacement";

interface AcceptProps {
  id: number;
  /** null: closed */
  said: Selection | null;
  onClose: () => void;
}

/** Accept takes the first candidates of many missing files in one act; those with warnings are listed first. */
export function Accept({ id, said, onClose }: AcceptProps) {
  const [out, setOut] = useState<readonly string[]>([]);
  const [despite, setDespite] = useState(false);
  const asked: Request = { keys: said?.keys ?? [], rows: said?.rows ?? null, without: [...out], despite, try: true };
  const { data, error } = useQuery({
    ...trial(["accept", id, asked], acts.accept(id, asked)),
    enabled: said !== null,
    placeholderData: (old) => old,
  });
  const close = () => {
    setOut([]);
    setDespite(false);
    onClose();
  };
  const take = useAct((r: Request) => acts.accept(id, r), close);
  const files = data?.files ?? 0;
  return (
    <Confirm
      wide
      open={said !== null}
      onClose={close}
      title={data ? `Relink ${plural(files, "file")}?` : "Relink the selected files?"}
      act={`Relink ${plural(files, "file")}`}
      busy={take.isPending || files === 0}
      onAct={() => take.mutate({ ...asked, try: false })}
    >
      <p>
        The best candidate of each file is used. The repairs are saved in Bound Crate and can be undone.
        {data && data.none > 0 ? ` ${plural(data.none, "file has", "files have")} no candidate and stay missing.` : ""}
      </p>
      {data && data.doubts > 0 ? (
        <label className="mt-2 flex items-center gap-2">
          <Check checked={despite} onChange={(e) => setDespite(e.target.checked)} />
          also use the {plural(data.doubts, "candidate")} with warnings
        </label>
      ) : null}
      <ul className="mt-2 max-h-72 overflow-auto border-t border-hair" tabIndex={0} aria-label="Candidates to use">
        {data?.list.map((r) => (
          <li
            key={r.expected}
            className="grid grid-cols-[26px_minmax(0,1fr)_14px_minmax(0,1.6fr)_64px] items-center gap-1.5 border-b border-hair py-0.5"
          >
            <Check
              aria-label={r.name}
              checked={!out.includes(r.expected) && (!r.doubtful || despite)}
              disabled={r.doubtful && !despite}
              onChange={() =>
                setOut(out.includes(r.expected) ? out.filter((e) => e !== r.expected) : [...out, r.expected])
              }
            />
            <Replacement row={r} />
            <Certainty of={r.certainty} />
          </li>
        ))}
        {data && data.more > 0 ? <li className="py-1 text-faint">and {plural(data.more, "file")} more</li> : null}
      </ul>
      <Trouble error={error ?? take.error} />
    </Confirm>
  );
}
