import { lazy, type ComponentType } from "react";

import type { Path } from "./frame/stations";

/** page is one that is loaded when somebody goes there. */
function page<K extends string>(name: K, load: () => Promise<Record<K, ComponentType>>) {
  return lazy(() => load().then((m) => ({ default: m[name] })));
}

/** The pages, by where they stand. */
export const pages: Record<Path, ComponentType> = {
  "": page("Start", () => import("./projects/Start")),
  trace: page("Trace", () => import("./trace/Trace")),
  mend: page("Mend", () => import("./mend/Mend")),
  sift: page("Sift", () => import("./sift/Sift")),
  stow: page("Stow", () => import("./stow/Stow")),
  seal: page("Seal", () => import("./seal/Seal")),
  points: page("Points", () => import("./trace/Points")),
  inside: page("NoFile", () => import("./trace/NoFile")),
  set: page("LooseSet", () => import("./keep/LooseSet")),
  keep: page("Keep", () => import("./keep/Keep")),
  drives: page("Drives", () => import("./survey/Drives")),
  clearout: page("Clearout", () => import("./survey/Clearout")),
  doctor: page("Doctor", () => import("./survey/Doctor")),
  receive: page("Receive", () => import("./receive/Receive")),
  compare: page("Compare", () => import("./survey/Compare")),
  rules: page("Rules", () => import("./rules/Rules")),
  settings: page("Settings", () => import("./settings/Settings")),
  habits: page("Habits", () => import("./rules/Habits")),
};
