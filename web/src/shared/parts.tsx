import { Toggle } from "radix-ui";
import type { ButtonHTMLAttributes, ReactNode } from "react";

import { Problem } from "../api/client";
import { tip } from "./Tip";
import { count } from "./words";

type ButtonProps = ButtonHTMLAttributes<HTMLButtonElement> & {
  kind?: "first" | "plain" | "small" | "smallFirst";
  hint?: string;
};

/** Button: one `first` on a slip, the rest plain. hint is its key. */
export function Button({ kind = "plain", hint, children, className = "", ...rest }: ButtonProps) {
  const look = {
    first: "border-sea bg-sea text-onsea px-3 py-1.5 hover:brightness-110",
    plain: "border-ink bg-sheet text-ink px-3 py-1.5 hover:bg-band",
    smallFirst: "border-sea bg-sea text-onsea px-2 py-0.5 text-[12px] hover:brightness-110",
    small: "border-rule bg-sheet text-ink px-2 py-0.5 text-[12px] hover:border-ink",
  }[kind];
  return (
    <button type="button" className={`rounded-xs border font-medium whitespace-nowrap ${look} ${className}`} {...rest}>
      {children}
      {hint ? <Key onFirst={kind === "first"}>{hint}</Key> : null}
    </button>
  );
}

export function Key({ children, onFirst }: { children: ReactNode; onFirst?: boolean }) {
  return (
    <kbd
      className={`ml-2 rounded-xs border px-1 font-mono text-[11px] ${onFirst ? "border-current opacity-80" : "border-rule text-faint"}`}
    >
      {children}
    </kbd>
  );
}

/** Chip is something that is on or off by itself. */
export function Chip({
  on,
  children,
  onClick,
  why,
}: {
  on: boolean;
  children: ReactNode;
  onClick: () => void;
  why?: string | undefined;
}) {
  return (
    <Toggle.Root
      {...tip(why)}
      pressed={on}
      onPressedChange={onClick}
      className="rounded-xs border border-rule bg-sheet px-2 py-0.5 text-[12px] whitespace-nowrap hover:border-ink data-[state=on]:border-ink data-[state=on]:bg-ink data-[state=on]:text-sheet"
    >
      {children}
    </Toggle.Root>
  );
}

export function Badge({
  children,
  tone = "ochre",
  why,
}: {
  children: ReactNode;
  tone?: "ochre" | "moss" | "sea" | "rust";
  /** what it says in full, where it may be cut short */
  why?: string;
}) {
  const look = { ochre: "text-ochre", moss: "text-moss", sea: "text-sea", rust: "text-rust" }[tone];
  return (
    <span
      className={`rounded-xs border border-current/40 px-1 text-[11px] leading-[1.35] whitespace-nowrap ${why ? "min-w-0 truncate" : ""} ${look}`}
      {...tip(why)}
    >
      {children}
    </span>
  );
}

/** Section heads a part of a slip. */
export function Section({ title, aside, children }: { title: string; aside?: ReactNode; children: ReactNode }) {
  return (
    <section className="mt-4 shrink-0 first:mt-0">
      <h3 className="caps mb-2 flex items-baseline justify-between border-b border-rule pb-1 text-[13px]">
        {title}
        {aside ? (
          <span className="font-sans text-[11.5px] font-normal tracking-normal text-faint normal-case">{aside}</span>
        ) : null}
      </h3>
      {children}
    </section>
  );
}

/** More says how many lines of a list are not shown. */
export function More({ of, all }: { of: readonly unknown[]; all: number }) {
  return all > of.length ? <li className="py-1 text-faint">and {count(all - of.length)} more</li> : null;
}

/** Fact is a line of a list of facts; more is what it says when it is pointed at. */
export function Fact({ name, children, more }: { name: string; children: ReactNode; more?: string }) {
  return (
    <div className="grid grid-cols-[64px_minmax(0,1fr)] gap-2 py-px" {...tip(more)}>
      <dt className="text-[12px] text-faint">{name}</dt>
      <dd className="font-mono text-[12px] wrap-anywhere">{children}</dd>
    </div>
  );
}

/** Trouble says an error in words, where it happened. */
export function Trouble({ error, onAway }: { error: unknown; onAway?: (() => void) | undefined }) {
  if (!error) return null;
  const title = error instanceof Problem ? error.reply.title : "That did not work";
  const detail = error instanceof Error ? error.message : String(error);
  return (
    <div role="alert" className="my-2 flex items-start gap-3 border-l-[3px] border-rust bg-rustwash px-3 py-2">
      <div className="min-w-0 flex-1 break-words">
        <b className="font-semibold">{title}.</b> {detail}
      </div>
      {onAway ? (
        <button type="button" aria-label="Dismiss" onClick={onAway} className="px-1 text-faint hover:text-ink">
          ×
        </button>
      ) : null}
    </div>
  );
}

/** Empty fills a sheet that has nothing to list. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="flex h-full min-h-40 flex-col items-center justify-center gap-2 p-8 text-center">
      <h2 className="text-[20px]">{title}</h2>
      <div className="max-w-[52ch] text-ink2">{children}</div>
    </div>
  );
}

/** Waiting stands where something is being asked for. */
export function Waiting({ what }: { what: string }) {
  return (
    <p role="status" className="p-6 text-faint">
      {what}
    </p>
  );
}

/** Asked shows what was asked for, or why it is not there yet. */
export function Asked<T>({
  error,
  data,
  waiting,
  children,
}: {
  error: unknown;
  data: T | undefined;
  waiting: string;
  children: (data: T) => ReactNode;
}) {
  if (error)
    return (
      <div className="p-6">
        <Trouble error={error} />
      </div>
    );
  return data === undefined ? <Waiting what={waiting} /> : children(data);
}
