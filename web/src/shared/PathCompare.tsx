import type { PathLine } from "../api/types";

/** PathCompare lays paths over the project's own: what is common is faint, where they part is raised. */
export function PathCompare({ lines }: { lines: PathLine[] }) {
  return (
    <div>
      {lines.map((l, i) => (
        <div key={i} className="grid grid-cols-[54px_minmax(0,1fr)] gap-1.5 py-0.5">
          <span className="text-[12px] text-faint">{l.label}</span>
          <code className="font-mono text-[12px] leading-normal break-words">
            {l.pieces.map((p, k) => (
              <span key={k}>
                {k > 0 ? <span className="text-faint"> / </span> : null}
                {p.common ? (
                  <span className="text-faint">{p.text}</span>
                ) : (
                  <b
                    className={`px-0.5 font-medium ${l.mark === "asked" ? "bg-rustwash text-rust" : l.mark === "found" ? "bg-seawash text-sea" : ""}`}
                  >
                    {p.text}
                  </b>
                )}
              </span>
            ))}
          </code>
        </div>
      ))}
    </div>
  );
}
