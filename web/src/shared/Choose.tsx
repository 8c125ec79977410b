import { ToggleGroup } from "radix-ui";

export interface Choice {
  value: string;
  word: string;
  tip?: string;
}

/** Choose is a set of which exactly one is on. */
export function Choose({
  label,
  value,
  choices,
  onChoose,
  disabled,
}: {
  label: string;
  value: string;
  choices: readonly Choice[];
  onChoose: (value: string) => void;
  disabled?: boolean;
}) {
  return (
    <ToggleGroup.Root
      type="single"
      data-toggles
      aria-label={label}
      value={value}
      disabled={disabled ?? false}
      onValueChange={(v) => v !== "" && onChoose(v)}
      className="flex flex-wrap gap-y-1"
    >
      {choices.map((c) => (
        <ToggleGroup.Item
          key={c.value}
          value={c.value}
          data-tip={c.tip}
          className="-ml-px border border-rule bg-sheet px-2 py-0.5 text-[12px] whitespace-nowrap first:ml-0 first:rounded-l-xs last:rounded-r-xs hover:border-ink data-[state=on]:border-ink data-[state=on]:bg-ink data-[state=on]:text-sheet"
        >
          {c.word}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
