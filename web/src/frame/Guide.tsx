import type { ReactNode } from "react";

/** A file as the drawings show it; dashed where it is missing. */
const File = ({
  x,
  y,
  tone = "stroke-ink2",
  gone = false,
}: {
  x: number;
  y: number;
  tone?: string;
  gone?: boolean;
}) => (
  <path
    d={`M${x} ${y}h9l4 4v13h-13z`}
    className={`fill-none ${tone}`}
    strokeWidth="1.3"
    strokeDasharray={gone ? "2.5 2" : undefined}
  />
);

const Way = ({ d, tone = "stroke-rule" }: { d: string; tone?: string }) => (
  <path d={d} className={`fill-none ${tone}`} strokeWidth="1.2" />
);

interface Part {
  name: string;
  drawing: ReactNode;
  text: string[];
}

const parts: Part[] = [
  {
    name: "1 Trace",
    drawing: (
      <>
        <File x={6} y={20} tone="stroke-ink" />
        <Way d="M22 28C40 28 40 10 58 10M22 28h36M22 28C40 28 40 48 58 48" />
        <File x={60} y={1} tone="stroke-moss" />
        <File x={60} y={20} tone="stroke-sea" />
        <File x={60} y={40} tone="stroke-rust" gone />
      </>
    ),
    text: [
      "Bound Crate reads your documents and follows every file they reference, also through nested documents.",
      "Each file has a state: here (in the project folder), away, missing, unplugged, and so on.",
      "The blocks show where the material is, by drive and folder. Click one to list only its files.",
      "Select a row to see its path, its facts, and where it is used.",
    ],
  },
  {
    name: "2 Mend",
    drawing: (
      <>
        <File x={6} y={20} tone="stroke-rust" gone />
        <Way d="M24 28h30m-5-4l5 4l-5 4" tone="stroke-sea" />
        <File x={60} y={8} />
        <File x={78} y={20} tone="stroke-moss" />
        <File x={60} y={34} />
      </>
    ),
    text: [
      "Choose folders and search them for what is missing. Certain matches are applied automatically.",
      "Candidates are ranked by evidence: name, folders, content, length. Each says what speaks for and against it.",
      "Files of one moved folder are relinked in one step.",
      "Repairs are saved in Bound Crate. You can undo them, or write them into the documents; an edition is kept first.",
    ],
  },
  {
    name: "3 Sift",
    drawing: (
      <>
        <Way d="M8 8h84L58 32v16l-16 8V32z" tone="stroke-ink2" />
        <Way d="M24 14h52M34 21h32" />
      </>
    ),
    text: [
      "Decide what travels in the crate: leave out inactive, unused or rebuildable files, whole kinds, or single files.",
      "Unreferenced files in the project folder can be included, or moved to a holding folder.",
      "The page says what a smaller crate leaves out. Nothing is deleted.",
    ],
  },
  {
    name: "4 Stow",
    drawing: (
      <>
        <Way d="M8 10h34v40H8zM8 23h34M8 36h34" tone="stroke-ink2" />
        <File x={12} y={3} tone="stroke-sea" />
        <Way d="M48 30h14m-5-4l5 4l-5 4" tone="stroke-sea" />
        <Way d="M68 14h24v32H68zM68 30h24M80 14v32" tone="stroke-ink" />
      </>
    ),
    text: [
      "See the planned folders and names before anything is copied. Change any of them, or drag files to folders.",
      "Names that clash, or that some systems do not allow, are renamed; each is listed.",
      "Options convert sounds, shorten files to the part in use, and add simpler documents for other programs.",
    ],
  },
  {
    name: "5 Seal",
    drawing: (
      <>
        <Way d="M14 12h52v36H14zM14 24h52M32 12v36M50 12v36" tone="stroke-ink" />
        <circle cx="76" cy="38" r="13" className="fill-sheet stroke-moss" strokeWidth="1.6" />
        <Way d="M70 38l4.5 4.5L83 33" tone="stroke-moss" />
      </>
    ),
    text: [
      "Copies everything into a folder or archive, with documents that use relative paths, checksums and a read-me.",
      "Every byte is read back. Then the crate is traced by itself, with nothing else reachable.",
      "Complete means: every reference leads to exactly the file that was sealed for it.",
    ],
  },
];

/** Guide explains the five stations, each with a drawing. */
export function Guide() {
  return (
    <ol className="grid gap-3">
      {parts.map((p) => (
        <li
          key={p.name}
          className="grid grid-cols-[100px_minmax(0,1fr)] gap-4 border-b border-hair pb-3 last:border-b-0"
        >
          <svg viewBox="0 0 100 60" width="100" height="60" aria-hidden>
            {p.drawing}
          </svg>
          <div>
            <h3 className="caps text-[14px]">{p.name}</h3>
            {p.text.map((t) => (
              <p key={t} className="leading-snug">
                {t}
              </p>
            ))}
          </div>
        </li>
      ))}
    </ol>
  );
}
