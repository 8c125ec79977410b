import { keptList } from "./keptList";

const kept = keptList<string>("boundcrate.places", "string", 5);

/** lastPlaces are the folders that were chosen last, whole paths, on this machine. */
export const lastPlaces = kept.read;

/** rememberPlace puts a folder first among them; "" is none. */
export const rememberPlace = (path: string) => {
  if (path !== "") kept.put(path);
};
