/** Mark is the drawn sign of a state: readable in grey, seconded by colour. */
export function Mark({ state, big }: { state: string; big?: boolean }) {
  if (!shapes[state]) return null;
  const size = big ? 18 : 14;
  const tone =
    {
      missing: "text-rust",
      unreadable: "text-rust",
      twins: "text-rust",
      unplugged: "text-ochre",
      unsaved: "text-ochre",
      away: "text-sea",
    }[state] ?? "text-ink";
  return (
    <svg
      viewBox="0 0 14 14"
      width={size}
      height={size}
      className={`${tone} shrink-0`}
      role="img"
      aria-label={state}
      fill="none"
      stroke="currentColor"
      strokeWidth="1.5"
    >
      {shapes[state]}
    </svg>
  );
}

const shapes: Record<string, React.ReactNode> = {
  here: <rect x="2.5" y="2.5" width="9" height="9" fill="currentColor" />,
  away: <path d="M7.5 2.5h-5v9h9v-5M7 7l5-5M8.6 1.8h3.6v3.6" />,
  missing: (
    <>
      <rect x="2.3" y="2.3" width="9.4" height="9.4" />
      <path d="M2.5 7.5l5-5M2.5 11.5l9-9M6.5 11.5l5-5" strokeWidth="1.2" />
    </>
  ),
  unplugged: <path d="M11.5 5V2.5h-9v9h9V9" />,
  twins: (
    <>
      <rect x="1.5" y="1.5" width="7.5" height="7.5" />
      <rect x="5" y="5" width="7.5" height="7.5" />
    </>
  ),
  unsaved: <rect x="2.3" y="2.3" width="9.4" height="9.4" strokeDasharray="1.6 1.7" />,
  inside: (
    <>
      <rect x="1.8" y="1.8" width="10.4" height="10.4" />
      <rect x="5" y="5" width="4" height="4" fill="currentColor" stroke="none" />
    </>
  ),
  unreadable: (
    <>
      <rect x="2.3" y="2.3" width="9.4" height="9.4" />
      <path d="M2.5 7h9" strokeWidth="2.2" />
    </>
  ),
};
