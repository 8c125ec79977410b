import { yaml } from "@codemirror/lang-yaml";
import { HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { lintGutter, setDiagnostics } from "@codemirror/lint";
import { EditorState } from "@codemirror/state";
import { EditorView } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { minimalSetup } from "codemirror";
import { lineNumbers } from "@codemirror/view";
import { getNonce } from "get-nonce";
import { useEffect, useRef } from "react";

import type { RulesTried } from "../api/types";

type Problems = RulesTried["problems"];

const colours = HighlightStyle.define([
  { tag: tags.propertyName, color: "var(--sea)" },
  { tag: tags.string, color: "var(--moss)" },
  { tag: tags.comment, color: "var(--faint)", fontStyle: "italic" },
  { tag: [tags.number, tags.bool], color: "var(--ochre)" },
]);

const look = EditorView.theme({
  "&": { height: "100%", backgroundColor: "var(--field)", color: "var(--ink)", fontSize: "13px" },
  "&.cm-focused": { outline: "2px solid var(--sea)", outlineOffset: "-2px" },
  ".cm-scroller": { fontFamily: "var(--font-mono)", lineHeight: "20px" },
  ".cm-gutters": { backgroundColor: "var(--band)", color: "var(--faint)", border: "none" },
  ".cm-cursor": { borderLeftColor: "var(--ink)" },
  "&.cm-focused .cm-selectionBackground, .cm-selectionBackground, ::selection": {
    backgroundColor: "var(--seawash) !important",
  },
  // The library draws these by images in its style sheet, which the policy keeps out.
  ".cm-lint-marker-error": {
    content: "none",
    backgroundColor: "var(--rust)",
    width: "8px",
    height: "8px",
    margin: "6px 2px",
  },
  ".cm-lintRange-error": { backgroundImage: "none", textDecoration: "underline wavy var(--rust)" },
  ".cm-tooltip": { backgroundColor: "var(--sheet)", color: "var(--ink)", border: "1px solid var(--ink)" },
});

/** Editor is where a rules file is written: what is wrong stands at its line, and in words below. */
export function Editor({
  text,
  onText,
  problems,
}: {
  text: string;
  onText: (text: string) => void;
  problems: Problems;
}) {
  const place = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const said = useRef(onText);
  useEffect(() => {
    said.current = onText;
  }, [onText]);
  const begin = useRef(text);
  useEffect(() => {
    if (!place.current) return;
    const v = new EditorView({
      parent: place.current,
      state: EditorState.create({
        doc: begin.current,
        extensions: [
          minimalSetup,
          lineNumbers(),
          lintGutter(),
          yaml(),
          syntaxHighlighting(colours),
          look,
          EditorView.cspNonce.of(getNonce() ?? ""),
          EditorView.contentAttributes.of({ "aria-label": "The rules file", spellcheck: "false" }),
          EditorView.updateListener.of((u) => u.docChanged && said.current(u.state.doc.toString())),
        ],
      }),
    });
    v.scrollDOM.tabIndex = 0; // a long text is scrolled by keys too
    view.current = v;
    return () => v.destroy();
  }, []);
  // A text that is taken from a proposal comes from outside; one that was typed is there already.
  useEffect(() => {
    const v = view.current;
    if (v && v.state.doc.toString() !== text)
      v.dispatch({ changes: { from: 0, to: v.state.doc.length, insert: text } });
  }, [text]);
  useEffect(() => {
    const v = view.current;
    if (!v) return;
    const marks = problems
      .filter((p) => p.line > 0 && p.line <= v.state.doc.lines)
      .map((p) => {
        const line = v.state.doc.line(p.line);
        return { from: line.from, to: line.to, severity: "error" as const, message: p.message };
      });
    v.dispatch(setDiagnostics(v.state, marks));
  }, [problems]);
  return (
    <>
      <div ref={place} className="min-h-40 flex-[3] overflow-hidden border-y border-rule" />
      {problems.length > 0 ? (
        <ul
          aria-label="Problems"
          className="max-h-32 shrink-0 overflow-auto border-b border-rule bg-rustwash px-[18px] py-2"
        >
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
