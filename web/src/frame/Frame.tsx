import { useMemo, useState } from "react";
import { Outlet, useNavigate } from "react-router";

import { useAppState, useProjectID, useSummary } from "../api/queries";
import { useKeys } from "../shared/keys";
import { Trouble } from "../shared/parts";
import { switchTheme } from "../shared/theme";
import { Foot } from "./Foot";
import { Head } from "./Head";
import { Help } from "./Help";
import { Route, stations } from "./Route";

/** Frame is the waybill's five regions: head, route, sheet, slip (both from the station) and foot. */
export function Frame() {
  const id = useProjectID();
  const go = useNavigate();
  const [help, setHelp] = useState(false);
  const [switching, setSwitching] = useState(false);
  const { data: state, error } = useAppState();
  const { data: summary } = useSummary(id);
  useKeys(
    useMemo(() => {
      const keys: Record<string, () => void> = { "?": () => setHelp(true), n: switchTheme, p: () => setSwitching(true) };
      if (id > 0) stations.forEach((s, i) => (keys[String(i + 1)] = () => void go(`/p/${id}/${s.path}`)));
      return keys;
    }, [id, go]),
  );
  return (
    <div className="grid h-full grid-rows-[44px_68px_minmax(0,1fr)_auto]">
      <Head state={state} id={id} onHelp={() => setHelp(true)} switching={switching} onSwitching={setSwitching} />
      <Route id={id} summary={id > 0 ? summary : undefined} />
      <div className="min-h-0">
        {error ? (
          <div className="p-6">
            <Trouble error={error} />
          </div>
        ) : (
          <Outlet />
        )}
      </div>
      <Foot state={state} summary={id > 0 ? summary : undefined} />
      <Help open={help} onClose={() => setHelp(false)} />
    </div>
  );
}
