import { useState } from "react";
import { Outlet, useNavigate } from "react-router";

import { useAlive } from "../api/alive";
import { useAppState, useProjectID, useSummary } from "../api/queries";
import { useKeys, type Actions } from "../shared/keys";
import { Trouble } from "../shared/parts";
import { switchTheme } from "../shared/theme";
import { Tips } from "../shared/Tip";
import { places, stations, views } from "./stations";
import { Drop } from "./Drop";
import { Foot } from "./Foot";
import { Head } from "./Head";
import { Help } from "./Help";
import { Route } from "./Route";

/** Frame is the waybill's five regions: head, route, sheet, slip (both from the station) and foot. */
export function Frame() {
  const id = useProjectID();
  const go = useNavigate();
  const [help, setHelp] = useState(false);
  const [switching, setSwitching] = useState(false);
  const { data: state, error } = useAppState();
  const { data: summary } = useSummary(id);
  const keys: Actions = { "?": () => setHelp(true), n: switchTheme, p: () => setSwitching(true) };
  for (const s of places) keys[s.key] = () => void go(`/${s.path}`);
  if (id > 0) for (const s of [...stations, ...views]) keys[s.key] = () => void go(`/p/${id}/${s.path}`);
  useKeys(keys);
  const alive = useAlive();
  const own = id > 0 ? summary : undefined;
  return (
    <div
      className={`grid h-full grid-cols-[minmax(0,1fr)] narrow:h-auto ${id > 0 ? "grid-rows-[44px_68px_minmax(0,1fr)_auto] narrow:grid-rows-[auto_auto_auto_auto]" : "grid-rows-[44px_minmax(0,1fr)_auto] narrow:grid-rows-[auto_auto_auto]"}`}
    >
      <Head state={state} id={id} onHelp={() => setHelp(true)} switching={switching} onSwitching={setSwitching} />
      {id > 0 ? <Route id={id} summary={own} /> : null}
      <div className="relative min-h-0">
        {alive ? null : (
          <p role="alert" className="absolute inset-x-0 top-0 z-10 border-b border-rust bg-rustwash px-[18px] py-1.5">
            <b className="font-semibold text-rust">Bound Crate is not responding.</b> It was stopped, or its connection
            is interrupted. Nothing is lost. This page continues by itself once it is running again.
          </p>
        )}
        {error ? (
          <div className="p-6">
            <Trouble error={error} />
          </div>
        ) : (
          <Outlet />
        )}
      </div>
      <Foot state={state} id={id} summary={own} />
      <Help open={help} onClose={() => setHelp(false)} />
      <Drop />
      <Tips />
    </div>
  );
}
