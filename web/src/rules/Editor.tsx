import { useRef } from "react";

import type { RulesTried } from "../api/types";

type Problems = RulesTried["problems"];

/** Editor is a plain text field with numbered lines; lines that are wrong say why below. */
export function Editor({ text, onText, problems }: { text: string; onText: (text: string) => void; problems: Problems }) {
  const gutter = useRef<HTMLPreElement>(null);
  const wrong = new Set(problems.map((p) => p.line));
  const lines = text.split("\n");
  return (
    <>
      <div className="grid min-h-40 flex-[3] grid-cols-[44px_minmax(0,1fr)] overflow-hidden border-y border-rule font-mono text-[13px] leading-5">
        <pre ref={gutter} aria-hidden className="overflow-hidden bg-band py-2 pr-2 text-right text-faint select-none">
          {lines.map((_, i) => (
            <span key={i} className={`block ${wrong.has(i + 1) ? "bg-rustwash font-bold text-rust" : ""}`}>
              {i + 1}
            </span>
          ))}
        </pre>
        <textarea
          aria-label="The rules file"
          aria-invalid={problems.length > 0}
          spellCheck={false}
          wrap="off"
          value={text}
          onChange={(e) => onText(e.target.value)}
          onScroll={(e) => {
            if (gutter.current) gutter.current.scrollTop = e.currentTarget.scrollTop;
          }}
          className="resize-none bg-field px-3 py-2 text-ink outline-none focus-visible:outline-2 focus-visible:-outline-offset-2 focus-visible:outline-sea"
        />
      </div>
      {problems.length > 0 ? (
        <ul aria-label="What is wrong" className="max-h-32 shrink-0 overflow-auto border-b border-rule bg-rustwash px-[18px] py-2">
          {problems.map((p, i) => (
            <li key={i}>
              {p.line > 0 ? <b className="mr-2 font-mono text-[12px] text-rust">line {p.line}</b> : null}
              {p.message}
            </li>
          ))}
        </ul>
      ) : null}
    </>
  );
}
