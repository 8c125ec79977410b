import type { ComponentProps, ReactNode } from "react";
import { Link } from "react-router";

import { tip } from "./Tip";
import { bytes, count, exact } from "./words";

type FieldProps = ComponentProps<"input"> & { mono?: boolean; low?: boolean };

/** Field is a line to write in; low stands among small things, mono holds names and paths. */
export function Field({ mono, low, className = "", ...rest }: FieldProps) {
  const size = low ? "px-1.5 py-0.5" : "px-2 py-1";
  return (
    <input
      className={`rounded-xs border border-rule bg-field text-ink ${size} ${mono ? "font-mono text-[12px]" : ""} ${className}`}
      {...rest}
    />
  );
}

/** Check is a box that is ticked or not. */
export function Check(p: Omit<ComponentProps<"input">, "type" | "className">) {
  return <input type="checkbox" className="size-4 accent-sea" {...p} />;
}

/** TextLink leads to another page from within a sentence. */
export function TextLink({ to, children }: { to: string; children: ReactNode }) {
  return (
    <Link to={to} className="text-sea underline underline-offset-2">
      {children}
    </Link>
  );
}

/** SheetLink opens a handoff sheet, a page of its own to read, print and save. */
export function SheetLink({ href }: { href: string }) {
  return (
    <a
      href={href}
      target="_blank"
      rel="noreferrer"
      className="text-sea underline underline-offset-2"
      {...tip("What is in the crate, for people: to read, print or save")}
    >
      Handoff sheet
    </a>
  );
}

/** Path is a path on a line of its own, cut short where there is no room. */
export function Path({ children, faint, full }: { children: string; faint?: boolean; full?: string }) {
  return (
    <span
      className={`block truncate font-mono ${faint ? "text-[11.5px] text-faint" : "text-[12px]"}`}
      {...tip(full ?? children)}
    >
      {children}
    </span>
  );
}

/** Count is how many, in a column of figures. */
export function Count({ of }: { of: number }) {
  return <span className="text-right font-mono text-[12px]">{count(of)}</span>;
}

/** Size is how large, in a column of figures; it says the bytes when it is pointed at. */
export function Size({ of, faint }: { of: number; faint?: boolean }) {
  return (
    <span className={`w-18 text-right font-mono text-[12px] ${faint ? "text-faint" : ""}`} {...tip(exact(of))}>
      {bytes(of)}
    </span>
  );
}

/** DialogFoot holds what a dialog can be answered with. */
export function DialogFoot({ children }: { children: ReactNode }) {
  return (
    <div className="flex flex-wrap items-center justify-end gap-2 border-t border-rule bg-band px-5 py-3">
      {children}
    </div>
  );
}
