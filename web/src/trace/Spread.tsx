import type { Place, Summary } from "../api/types";
import { tip } from "../shared/Tip";
import { bytes, exact, plural } from "../shared/words";

const looks: Record<string, string> = {
  own: "bg-ink text-sheet border-ink",
  project: "bg-field hatch-sea border-sea",
  dump: "bg-field hatch-ochre border-ochre",
  library: "bg-field border-sea",
  other: "bg-mosswash border-moss",
  unplugged: "border-dashed border-ochre",
  missing: "hatch-rust border-rust",
};
const says: Record<string, string> = {
  own: "the project's own folder",
  project: "another project's folder",
  dump: "a dumping ground",
  library: "a library",
  other: "elsewhere",
  unplugged: "not connected",
  missing: "not found anywhere",
};

// Roots of bytes keep small places wide enough to read and to click.
const weight = (p: Place) => Math.max(12, Math.sqrt(Math.max(p.bytes, 1)) / 100);

/** Spread is the picture of where a project's material lives: drives side by side, folders in them by their bytes. */
export function Spread({
  summary,
  chosen,
  onPlace,
  onMissing,
}: {
  summary: Summary;
  chosen: string;
  onPlace: (path: string) => void;
  onMissing: () => void;
}) {
  const drives = new Map<string, Place[]>();
  for (const p of summary.places) {
    const key = p.kind === "missing" ? "" : p.drive || "No drive";
    drives.set(key, [...(drives.get(key) ?? []), p]);
  }
  const missing = drives.get("");
  drives.delete("");
  const all = [...drives.entries()];
  if (missing) all.push(["", missing]);
  const total = all.reduce((n, [, ps]) => n + ps.reduce((m, p) => m + weight(p), 0), 0);
  return (
    <section aria-label="Spread" className="flex gap-2.5 px-[18px] pb-3">
      {all.map(([drive, places]) => {
        const sum = places.reduce((n, p) => n + p.bytes, 0);
        const out = places.every((p) => p.kind === "unplugged");
        const [first, ...rest] = places;
        const stack = rest.length > 2 ? [rest.slice(0, 2), rest.slice(2)] : [rest];
        return (
          <div
            key={drive}
            className="min-w-[136px]"
            style={{ flexGrow: places.reduce((m, p) => m + weight(p), 0) / total, flexBasis: 0 }}
          >
            <h2 className={`caps truncate pb-0.5 text-[13px] ${out ? "text-ochre" : ""}`}>
              {drive || "No place"}{" "}
              <span className="font-mono text-[11px] font-normal tracking-normal text-faint normal-case">
                {drive === "" ? "" : out ? "unplugged" : bytes(sum)}
              </span>
            </h2>
            <div
              className={`flex h-[78px] gap-[3px] border-t-[1.5px] pt-[3px] ${out ? "border-dashed border-ochre" : "border-ink"}`}
            >
              {first ? (
                <Block
                  place={first}
                  on={chosen !== "" && chosen === first.path}
                  onClick={() =>
                    first.kind === "missing" ? onMissing() : onPlace(chosen === first.path ? "" : first.path)
                  }
                />
              ) : null}
              {stack.map((col, i) =>
                col.length > 0 ? (
                  <div
                    key={i}
                    className="flex min-w-0 flex-col gap-[3px]"
                    style={{ flexGrow: col.reduce((m, p) => m + weight(p), 0), flexBasis: 0 }}
                  >
                    {col.map((p) => (
                      <Block
                        key={p.path + p.kind}
                        place={p}
                        on={chosen === p.path}
                        tight={col.length > 1}
                        onClick={() => onPlace(chosen === p.path ? "" : p.path)}
                      />
                    ))}
                  </div>
                ) : null,
              )}
            </div>
          </div>
        );
      })}
    </section>
  );
}

function Block({ place, on, tight, onClick }: { place: Place; on: boolean; tight?: boolean; onClick: () => void }) {
  const name = place.kind === "missing" ? "missing" : place.folder;
  const what = `${plural(place.files, "file")}${place.bytes > 0 ? ` · ${place.kind === "missing" ? "last seen " : ""}${bytes(place.bytes)}` : ""}`;
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onClick}
      {...tip(`${place.path}\n${says[place.kind] ?? ""}, ${plural(place.files, "file")}, ${exact(place.bytes)}`)}
      style={{ flexGrow: weight(place), flexBasis: 0 }}
      className={`flex min-w-0 flex-col overflow-hidden border px-1.5 text-left ${tight ? "min-h-[35px] justify-center" : "min-h-0 py-1"} ${looks[place.kind] ?? ""} ${on ? "outline-2 outline-offset-1 outline-sea" : ""}`}
    >
      <span className="block w-full truncate font-mono text-[11.5px] leading-[1.35] font-medium">{name}</span>
      <span
        className={`block w-full truncate text-[11px] leading-[1.35] ${place.kind === "own" ? "opacity-75" : "text-ink2"}`}
      >
        {what}
      </span>
    </button>
  );
}
