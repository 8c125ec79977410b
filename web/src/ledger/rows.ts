import type { ReactNode } from "react";

import { asks } from "../api/client";
import type { Heading, Stretch } from "../api/types";

/** Column is one column of a ledger: the server sorts by its id, text is what is copied of it. */
export interface Column<R> {
  id: string;
  title: string;
  /** its track in the grid, as CSS names it */
  width: string;
  right?: boolean;
  /** shown only when it is asked for */
  extra?: boolean;
  text: (row: R) => string;
  cell?: (row: R) => ReactNode;
}

/** Sums is what the rows of a query come to. */
export interface Sums {
  rows: number;
  files: number;
  references: number;
  bytes: number;
}

export interface Line<R> {
  heading: Heading | null;
  row: R | null;
}

/** Lines is a window of a ledger, as every list of the server answers. */
export interface Lines<R> extends Sums {
  snapshot: string;
  total: number;
  lines: Line<R>[];
}

/** Asked is what a list is narrowed, ordered and grouped by. */
export type Asked = Record<string, string>;

/** List is a list of a project, by the server's name of it. */
export interface List {
  id: number;
  name: string;
  asked: Asked;
}

/** atOnce is how many lines one answer holds at the most. */
export const atOnce = 500;

export const askLines = <R>({ id, name, asked }: List, offset: number, limit: number) =>
  asks<Lines<R>>(["projects", id, "tables", name, asked, offset, limit], `/projects/${id}/tables/${name}`, {
    ...asked,
    offset,
    limit,
  });

/** askStretch asks for rows that stand together: between two, beside one, or all. */
export const askStretch = ({ id, name, asked }: List, of: { from?: string; to?: string; beside?: string } = {}) =>
  asks<Stretch>(["projects", id, "tables", name, asked, of], `/projects/${id}/tables/${name}/stretch`, {
    ...asked,
    ...of,
  });

/** collect asks for the lines from one on to another, each with its place. */
export async function* collect<R>(list: List, first: number, last: number) {
  for (let offset = first; offset <= last; offset += atOnce) {
    const { lines } = await askLines<R>(list, offset, Math.min(atOnce, last - offset + 1)).queryFn();
    for (const [i, l] of lines.entries()) if (l.row) yield { row: l.row, at: offset + i };
    if (lines.length === 0) return;
  }
}
