// Made from the table of routes, server/routes.go, by make types: not to be changed by hand.
import { asks, changes } from "./client";
import type {
  Accept,
  Accepted,
  Adopt,
  Aimed,
  AppState,
  AskCarrier,
  AskClearout,
  AskHome,
  Begin,
  Begun,
  BringHome,
  CarrierTakes,
  Choose,
  Chosen,
  Cleared,
  CompareRequest,
  Compared,
  Comparing,
  CopyFrames,
  Crates,
  Decisions,
  Declare,
  Destination,
  Differs,
  DriveCards,
  Dropped,
  DroppedList,
  EditionsCompared,
  Estimates,
  Examined,
  Folder,
  GroupFiles,
  Habits,
  HabitsTried,
  HeldFiles,
  HeldList,
  Hold,
  HomePlan,
  Keep,
  KeepNow,
  KeepSettings,
  KeptNow,
  LearnRules,
  LooseSet,
  MakeFolder,
  Mend,
  MendGroup,
  MoveCount,
  MoveFolder,
  NewDrive,
  NewLoose,
  NewProject,
  NoFiles,
  OfGeneration,
  Peaks,
  Plug,
  Points,
  Project,
  PutAway,
  PutBack,
  ReceiveRequest,
  Received,
  Recipes,
  Restore,
  RestoredNow,
  Reveal,
  Rules,
  RulesLearned,
  RulesTried,
  SayMeant,
  SealRequest,
  Sealed,
  Search,
  SendRequest,
  SetAside,
  SetDrive,
  SetHabits,
  SetLoose,
  SetNote,
  SetPoints,
  SetRecipe,
  SetRules,
  SetSearch,
  SetSettings,
  Settings,
  Slip,
  Spread,
  Started,
  Stock,
  Stow,
  StowOptions,
  Strays,
  Summary,
  TakeBack,
  TakeIn,
  Templates,
  TookIn,
  TryRules,
  UseRecipe,
  Wanted,
  Wish,
  WriteOut,
  WriteRepairs,
  WriteResult,
} from "./types";

/** stale is what changes of a kind make stale. */
export const stale = {
  projects: () => [["state"], ["stock"], ["held"]],
  drives: () => [["state"], ["drives"], ["stock"], ["held"], ["browse"], ["machine"], ["doctor"], ["projects"]],
  held: () => [["held"], ["drives"], ["state"], ["stock"]],
  untouched: () => [],
  settings: () => [["settings"], ["state"]],
  asReads: () => [["rules"], ["habits"], ["state"]],
  recipes: () => [["recipes"], ["projects"]],
  ofProject: (id: number) => [["projects", id]],
  ofPlan: (id: number) => [
    ["projects", id, ""],
    ["projects", id, "stow"],
    ["projects", id, "tables", "berths"],
    ["projects", id, "estimates"],
    ["projects", id, "strays"],
    ["projects", id, "destination"],
    ["projects", id, "sealed"],
    ["projects", id, "decisions"],
    ["recipes"],
  ],
  ofKeep: (id: number) => [
    ["projects", id, "keep"],
    ["projects", id, "editions"],
  ],
};

export const state = () => asks<AppState>(["state"], `/state`);
export const stopJob = (id: string) =>
  changes<Started>("POST", `/jobs/${encodeURIComponent(id)}/stop`, undefined, stale.projects());
export const doctor = () => asks<Examined>(["doctor"], `/doctor`);
export const driveCards = () => asks<DriveCards>(["drives"], `/drives`);
export const addDrive = (body: NewDrive) => changes<AppState>("POST", `/drives`, body, stale.drives());
export const nameDrive = (id: string, body: NewDrive) =>
  changes<AppState>("PUT", `/drives/${encodeURIComponent(id)}`, body, stale.drives());
export const dropDrive = (id: string) =>
  changes<AppState>("DELETE", `/drives/${encodeURIComponent(id)}`, undefined, stale.drives());
export const plug = (id: string, body: Plug) =>
  changes<AppState>("POST", `/drives/${encodeURIComponent(id)}/plug`, body, stale.drives());
export const setDrive = (id: string, body: SetDrive) =>
  changes<DriveCards>("PUT", `/drives/${encodeURIComponent(id)}/set`, body, stale.drives());
export const indexDrive = (id: string) =>
  changes<Started>("POST", `/drives/${encodeURIComponent(id)}/index`, undefined, stale.projects());
export const measure = (id: string) =>
  changes<Started>("POST", `/drives/${encodeURIComponent(id)}/measure`, undefined, stale.projects());
export const declare = (body: Declare) => changes<DriveCards>("POST", `/declared`, body, stale.drives());
export const stock = () => asks<Stock>(["stock"], `/stock`);
export const takeStock = () => changes<Started>("POST", `/stock`, undefined, stale.projects());
export const machine = (q: { path?: string; q?: string; from?: number } = {}) =>
  asks<Folder>(["machine", q], `/machine`, q);
export const browse = (q: { path?: string; q?: string; from?: number } = {}) =>
  asks<Folder>(["browse", q], `/browse`, q);
export const peaks = (q: { path?: string } = {}) => asks<Peaks>(["peaks", q], `/peaks`, q);
export const differs = (q: { path?: string; last?: string } = {}) => asks<Differs>(["differs", q], `/differs`, q);
export const receive = (body: ReceiveRequest) => changes<Started>("POST", `/receive`, body, stale.projects());
export const received = (id: string) => asks<Received>(["receive", id], `/receive/${encodeURIComponent(id)}`);
export const compare = (body: CompareRequest) => changes<Started>("POST", `/compare`, body, stale.projects());
export const compared = (id: string) => asks<Comparing>(["compare", id], `/compare/${encodeURIComponent(id)}`);
export const clearout = (body: AskClearout) => changes<Started>("POST", `/clearout`, body, stale.projects());
export const clearedOut = (id: string) => asks<Cleared>(["clearout", id], `/clearout/${encodeURIComponent(id)}`);
export const hold = (id: string, body: Hold) =>
  changes<HeldList>("POST", `/clearout/${encodeURIComponent(id)}/hold`, body, stale.drives());
export const held = () => asks<HeldList>(["held"], `/held`);
export const bringBack = (id: number) => changes<HeldList>("POST", `/held/${id}/back`, undefined, stale.drives());
export const erase = (id: number) => changes<HeldList>("POST", `/held/${id}/erase`, undefined, stale.held());
export const templates = () => asks<Templates>(["templates"], `/templates`);
export const begin = (body: Begin) => changes<Begun>("POST", `/templates`, body, stale.projects());
export const dropped = (body: Dropped) => changes<DroppedList>("POST", `/dropped`, body, stale.untouched());
export const settings = () => asks<Settings>(["settings"], `/settings`);
export const setSettings = (body: SetSettings) => changes<Settings>("PUT", `/settings`, body, stale.settings());
export const reveal = (body: Reveal) => changes<void>("POST", `/reveal`, body, stale.untouched());
export const makeFolder = (body: MakeFolder) => changes<Begun>("POST", `/folders`, body, stale.drives());
export const habits = () => asks<Habits>(["habits"], `/habits`);
export const setHabits = (body: SetHabits) => changes<Habits>("PUT", `/habits`, body, stale.asReads());
export const tryHabits = (body: SetHabits) => changes<HabitsTried>("POST", `/habits/try`, body, stale.untouched());
export const rules = () => asks<Rules>(["rules"], `/rules`);
export const setRules = (body: SetRules) => changes<Rules>("PUT", `/rules`, body, stale.asReads());
export const dropRules = (id: string) =>
  changes<Rules>("DELETE", `/rules/${encodeURIComponent(id)}`, undefined, stale.asReads());
export const tryRules = (body: TryRules) => changes<RulesTried>("POST", `/rules/try`, body, stale.untouched());
export const learnRules = (body: LearnRules) => changes<RulesLearned>("POST", `/rules/learn`, body, stale.untouched());
export const recipes = (q: { project?: number } = {}) => asks<Recipes>(["recipes", q], `/recipes`, q);
export const setRecipe = (body: SetRecipe) => changes<void>("PUT", `/recipes`, body, stale.recipes());
export const dropRecipe = (id: string) =>
  changes<void>("DELETE", `/recipes/${encodeURIComponent(id)}`, undefined, stale.recipes());
export const addProject = (body: NewProject) => changes<Project>("POST", `/projects`, body, stale.projects());
export const gather = (body: NewLoose) => changes<Project>("POST", `/sets`, body, stale.projects());
export const dropProject = (id: number) => changes<void>("DELETE", `/projects/${id}`, undefined, stale.projects());
export const summary = (id: number) => asks<Summary>(["projects", id, ""], `/projects/${id}`);
export const retrace = (id: number) => changes<Started>("POST", `/projects/${id}/trace`, undefined, stale.projects());
export const refresh = (id: number) => changes<void>("POST", `/projects/${id}/look`, undefined, stale.untouched());
export const slip = (id: number, q: { key?: string } = {}) =>
  asks<Slip>(["projects", id, "slip", q], `/projects/${id}/slip`, q);
export const mend = (id: number) => asks<Mend>(["projects", id, "mend"], `/projects/${id}/mend`);
export const wanted = (id: number, q: { key?: string } = {}) =>
  asks<Wanted>(["projects", id, "wanted", q], `/projects/${id}/wanted`, q);
export const search = (id: number, body: Search) =>
  changes<Started>("POST", `/projects/${id}/search`, body, stale.ofProject(id));
export const setSearch = (id: number, body: SetSearch) =>
  changes<Started>("PUT", `/projects/${id}/search`, body, stale.ofProject(id));
export const choose = (id: number, body: Choose) =>
  changes<Chosen>("POST", `/projects/${id}/repairs`, body, stale.ofProject(id));
export const copyFrames = (id: number, body: CopyFrames) =>
  changes<Started>("POST", `/projects/${id}/frames`, body, stale.ofProject(id));
export const undoRepair = (id: number, repair: number, q: { batch?: boolean } = {}) =>
  changes<void>("DELETE", `/projects/${id}/repairs/${repair}`, undefined, stale.ofProject(id), q);
export const move = (id: number, body: MoveFolder) =>
  changes<Started>("POST", `/projects/${id}/moves`, body, stale.ofProject(id));
export const setAside = (id: number, body: SetAside) =>
  changes<Started>("POST", `/projects/${id}/aside`, body, stale.ofProject(id));
export const spell = (id: number) => changes<Started>("POST", `/projects/${id}/spell`, undefined, stale.ofProject(id));
export const sayMeant = (id: number, body: SayMeant) =>
  changes<Started>("POST", `/projects/${id}/meant`, body, stale.ofProject(id));
export const group = (id: number, q: { key?: string } = {}) =>
  asks<GroupFiles>(["projects", id, "group", q], `/projects/${id}/group`, q);
export const countMove = (id: number, q: { from?: string; to?: string } = {}) =>
  asks<MoveCount>(["projects", id, "move", q], `/projects/${id}/move`, q);
export const mendGroup = (id: number, body: MendGroup) =>
  changes<Started>("POST", `/projects/${id}/group`, body, stale.ofProject(id));
export const accept = (id: number, body: Accept) =>
  changes<Accepted>("POST", `/projects/${id}/accept`, body, stale.ofProject(id));
export const decisions = (id: number) => asks<Decisions>(["projects", id, "decisions"], `/projects/${id}/decisions`);
export const undo = (id: number) => changes<void>("POST", `/projects/${id}/undo`, undefined, stale.ofProject(id));
export const redo = (id: number) => changes<void>("POST", `/projects/${id}/redo`, undefined, stale.ofProject(id));
export const write = (id: number, body: WriteRepairs) =>
  changes<WriteResult>("POST", `/projects/${id}/write`, body, stale.ofProject(id));
export const putBack = (id: number, body: PutBack) =>
  changes<void>("POST", `/projects/${id}/putback`, body, stale.ofProject(id));
export const spread = (id: number) => asks<Spread>(["projects", id, "spread"], `/projects/${id}/spread`);
export const sibling = (id: number, q: { path?: string } = {}) =>
  asks<Compared>(["projects", id, "sibling", q], `/projects/${id}/sibling`, q);
export const points = (id: number) => asks<Points>(["projects", id, "points"], `/projects/${id}/points`);
export const setPoints = (id: number, body: SetPoints) =>
  changes<Aimed>("POST", `/projects/${id}/points`, body, stale.ofProject(id));
export const noFiles = (id: number) => asks<NoFiles>(["projects", id, "inside"], `/projects/${id}/inside`);
export const writeOut = (id: number, body: WriteOut) =>
  changes<Started>("POST", `/projects/${id}/inside`, body, stale.ofProject(id));
export const homePlan = (id: number) => asks<HomePlan>(["projects", id, "home"], `/projects/${id}/home`);
export const bringHome = (id: number, body: BringHome) =>
  changes<Started>("POST", `/projects/${id}/home`, body, stale.ofProject(id));
export const askHome = (id: number, body: AskHome) =>
  changes<void>("PUT", `/projects/${id}/home`, body, stale.ofProject(id));
export const stow = (id: number) => asks<Stow>(["projects", id, "stow"], `/projects/${id}/stow`);
export const setStow = (id: number, body: StowOptions) =>
  changes<Stow>("PUT", `/projects/${id}/stow`, body, stale.ofPlan(id));
export const followRecipe = (id: number, body: UseRecipe) =>
  changes<Stow>("POST", `/projects/${id}/recipe`, body, stale.ofPlan(id));
export const estimates = (id: number) => asks<Estimates>(["projects", id, "estimates"], `/projects/${id}/estimates`);
export const wish = (id: number, body: Wish) => changes<void>("PUT", `/projects/${id}/berths`, body, stale.ofPlan(id));
export const strays = (id: number, q: { filter?: string; sort?: string } = {}) =>
  asks<Strays>(["projects", id, "strays", q], `/projects/${id}/strays`, q);
export const adopt = (id: number, body: Adopt) =>
  changes<void>("POST", `/projects/${id}/adopt`, body, stale.ofPlan(id));
export const putAway = (id: number, body: PutAway) =>
  changes<Started>("POST", `/projects/${id}/putaway`, body, stale.ofProject(id));
export const destination = (id: number, q: { out?: string } = {}) =>
  asks<Destination>(["projects", id, "destination", q], `/projects/${id}/destination`, q);
export const sealed = (id: number) => asks<Sealed>(["projects", id, "sealed"], `/projects/${id}/sealed`);
export const seal = (id: number, body: SealRequest) =>
  changes<Started>("POST", `/projects/${id}/seal`, body, stale.ofProject(id));
export const crates = (id: number) => asks<Crates>(["projects", id, "crates"], `/projects/${id}/crates`);
export const kept = (id: number) => asks<Keep>(["projects", id, "keep"], `/projects/${id}/keep`);
export const keepNow = (id: number, body: KeepNow) =>
  changes<KeptNow>("POST", `/projects/${id}/keep`, body, stale.ofKeep(id));
export const setKeep = (id: number, body: KeepSettings) =>
  changes<KeepSettings>("PUT", `/projects/${id}/keep`, body, stale.ofKeep(id));
export const takeIn = (id: number, body: TakeIn) =>
  changes<TookIn>("POST", `/projects/${id}/keep/saves`, body, stale.ofKeep(id));
export const setNote = (id: number, body: SetNote) =>
  changes<void>("PUT", `/projects/${id}/keep/note`, body, stale.ofKeep(id));
export const restore = (id: number, body: Restore) =>
  changes<RestoredNow>("POST", `/projects/${id}/restore`, body, stale.ofProject(id));
export const looseSet = (id: number) => asks<LooseSet>(["projects", id, "set"], `/projects/${id}/set`);
export const setLoose = (id: number, body: SetLoose) =>
  changes<LooseSet>("PUT", `/projects/${id}/set`, body, stale.ofProject(id));
export const compareEditions = (id: number, q: { a?: number; b?: number } = {}) =>
  asks<EditionsCompared>(["projects", id, "editions", q], `/projects/${id}/editions`, q);
export const backup = (id: number) => changes<Started>("POST", `/projects/${id}/backup`, undefined, stale.projects());
export const verifyBackup = (id: number, body: OfGeneration) =>
  changes<Started>("POST", `/projects/${id}/backup/verify`, body, stale.projects());
export const dryRestore = (id: number, body: OfGeneration) =>
  changes<Started>("POST", `/projects/${id}/backup/dry`, body, stale.projects());
export const heldFiles = (id: number, q: { path?: string } = {}) =>
  asks<HeldFiles>(["projects", id, "backup", "files", q], `/projects/${id}/backup/files`, q);
export const takeBack = (id: number, body: TakeBack) =>
  changes<RestoredNow>("POST", `/projects/${id}/backup/back`, body, stale.ofProject(id));
export const carrier = (id: number, body: AskCarrier) =>
  changes<CarrierTakes>("POST", `/projects/${id}/carrier`, body, stale.untouched());
export const send = (id: number, body: SendRequest) =>
  changes<Started>("POST", `/projects/${id}/send`, body, stale.ofProject(id));
