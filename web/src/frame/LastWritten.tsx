import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import type { Summary } from "../api/types";
import { Button, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { plural, when } from "../shared/words";

/** LastWritten tells what was last written into the project's documents, and puts it back. */
export function LastWritten({ id, summary }: { id: number; summary: Summary | undefined }) {
  const back = useAct((act: number) => acts.putBack(id, { act }));
  const act = summary?.lastAct;
  if (!act) return back.error ? <Trouble error={back.error} /> : null;
  return (
    <div className="shrink-0 border-l-[3px] border-moss bg-mosswash px-3 py-1.5 text-[13px]">
      <div className="flex items-center gap-3">
        <p className="min-w-0 flex-1" {...tip(act.documents.join("\n"))}>
          {when(act.at)}: {act.say}, in {plural(act.documents.length, "document")}.
        </p>
        <Button
          kind="small"
          disabled={back.isPending}
          onClick={() => back.mutate(act.id)}
          {...tip("Restores the documents as they were before. Their present state is kept as an edition.")}
        >
          Restore documents
        </Button>
      </div>
      <Trouble error={back.error} />
    </div>
  );
}
