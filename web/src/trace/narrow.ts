/** nowhere narrows the list to nothing: every way to narrow it starts from here. */
export const nowhere = { state: "", kind: "", place: "", document: "", badge: "", filter: "", list: "" };

/** Narrow is some of what narrows the list. */
export type Narrow = Partial<typeof nowhere>;

export type Narrows = (narrow: Narrow) => void;
