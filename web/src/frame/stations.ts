import type { Summary } from "../api/types";
import { bytes, plural, count } from "../shared/words";

interface Figure {
  figure: string;
  says: string;
  tone?: string;
}

/** Path is where a page stands in the address; a project's stand below it. */
export type Path =
  | ""
  | "drives"
  | "doctor"
  | "rules"
  | "habits"
  | "settings"
  | "clearout"
  | "receive"
  | "compare"
  | "trace"
  | "mend"
  | "sift"
  | "stow"
  | "seal"
  | "points"
  | "keep"
  | "set"
  | "inside";

/** Stop is a place one can go to: the one list of them feeds routes, head, keys and help. */
export interface Stop {
  path: Path;
  name: string;
  key: string;
  /** what one goes there for, in the words of the route and of the list of keys */
  asks: string;
  /** it is reached from another place, and does not stand in the head */
  quiet?: boolean;
}

/** StationOf is one of the five, with what is left to do there. */
export interface StationOf extends Stop {
  figure: (s: Summary) => Figure;
  /** whether the line is drawn through it */
  passed: (s: Summary) => boolean;
}

/** The five stations of a project, in the order of the work. */
export const stations: StationOf[] = [
  {
    path: "trace",
    name: "Trace",
    key: "1",
    asks: "what the project uses and where it is",
    figure: (s) => ({ figure: count(s.references), says: `references · ${bytes(s.bytes)}` }),
    passed: () => true,
  },
  {
    path: "mend",
    name: "Mend",
    key: "2",
    asks: "search for missing files",
    figure: (s) =>
      s.toFind > 0
        ? { figure: count(s.toFind), says: "missing", tone: "text-rust" }
        : { figure: "0", says: "nothing missing", tone: "text-moss" },
    passed: (s) => s.sealed || s.toFind === 0,
  },
  {
    path: "sift",
    name: "Sift",
    key: "3",
    asks: "decide what travels",
    figure: (s) => ({ figure: bytes(s.canStay).replace(/ bytes?$/, " B"), says: "can stay" }),
    passed: (s) => s.sealed,
  },
  {
    path: "stow",
    name: "Stow",
    key: "4",
    asks: "where each file goes",
    figure: (s) =>
      s.clashes === null
        ? { figure: "…", says: "being planned" }
        : s.clashes > 0
          ? {
              figure: count(s.clashes),
              says: s.clashes === 1 ? "clash, renamed" : "clashes, renamed",
              tone: "text-ochre",
            }
          : { figure: "0", says: "names clash" },
    passed: (s) => s.sealed,
  },
  {
    path: "seal",
    name: "Seal",
    key: "5",
    asks: "make the crate and prove it",
    figure: (s) => {
      if (!s.sealed) return { figure: "—", says: "not sealed yet" };
      if (s.sealedGone) return { figure: "Gone", says: "crate not found", tone: "text-ochre" };
      if (s.complete && s.sealedStale > 0)
        return {
          figure: "Older",
          says: `${plural(s.sealedStale, "source has", "sources have")} changed since`,
          tone: "text-ochre",
        };
      return s.complete
        ? { figure: "Proved", says: "sealed, complete", tone: "text-moss" }
        : { figure: "Sealed", says: "not complete", tone: "text-rust" };
    },
    passed: (s) => s.sealed,
  },
];

/** What belongs to a project and is no station: reached from them, and by keys. */
export const views: Stop[] = [
  { path: "points", name: "Write points", key: "w", asks: "where the project will record and render" },
  {
    path: "inside",
    name: "No file yet",
    key: "i",
    asks: "data inside documents, or never saved",
  },
  { path: "set", name: "Loose set", key: "l", asks: "the files of a project that has no document", quiet: true },
  { path: "keep", name: "Keep", key: "h", asks: "editions of the documents, and backups" },
];

/** The places that need no project. The first is the start page; the others stand in the head. */
export const places: Stop[] = [
  { path: "", name: "Survey", key: "0", asks: "all projects and their state" },
  { path: "drives", name: "Drives", key: "d", asks: "space, speed, and which projects use them" },
  {
    path: "doctor",
    name: "Doctor",
    key: "e",
    asks: "what works on this machine",
    quiet: true,
  },
  { path: "rules", name: "Rules", key: "r", asks: "describe a format of your own" },
  {
    path: "habits",
    name: "Habits",
    key: "b",
    asks: "rebuildable files and companions",
    quiet: true,
  },
  { path: "settings", name: "Settings", key: ",", asks: "appearance, keys, data folder, licences", quiet: true },
  { path: "clearout", name: "Clear out", key: "f", asks: "check whether a folder can be removed" },
  { path: "receive", name: "Receive", key: "v", asks: "check a crate and unpack it" },
  {
    path: "compare",
    name: "Compare",
    key: "q",
    asks: "what came, went and changed between two documents or crates",
    quiet: true,
  },
];
