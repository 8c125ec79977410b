import { Outlet, useLocation } from "react-router";

import * as acts from "../api/acts";
import { useAct, useLook, useProjectID, useSummary } from "../api/queries";
import { TextLink } from "../shared/kit";
import { Button, Empty, Trouble, Waiting } from "../shared/parts";
import { Station } from "./Station";

/** Traced stands before every station: without a trace there is nothing to work on. */
export function Traced() {
  const id = useProjectID();
  const { data: summary, error } = useSummary(id);
  useLook(id);
  const retrace = useAct(() => acts.retrace(id));
  const { pathname } = useLocation();
  // What is kept needs no document that can be read: it brings one back.
  if (summary?.traced || (summary?.error && pathname.endsWith("/keep"))) return <Outlet />;
  let sheet;
  if (error)
    sheet = (
      <div className="p-6">
        <Trouble error={error} />
      </div>
    );
  else if (summary?.error)
    sheet = (
      <Empty title="The document could not be read">
        <p className="mb-4">{summary.error}</p>
        <Button kind="first" onClick={() => retrace.mutate(undefined)}>
          Trace again
        </Button>
        <p className="mt-4">
          <TextLink to="../keep">Look for an earlier edition</TextLink> of the documents.
        </p>
      </Empty>
    );
  else
    sheet = (
      <Waiting
        what={
          summary ? "Following every reference. Progress is shown at the foot of the page." : "Loading the project."
        }
      />
    );
  return <Station name="The project" slipName="Selection" sheet={sheet} slip={null} />;
}
