import { getNonce } from "get-nonce";
import { Select } from "radix-ui";

import type { Choice } from "./Choose";

/** Pick is one of a list that is too long to stand side by side. */
export function Pick({
  label,
  value,
  choices,
  onPick,
}: {
  label: string;
  value: string;
  choices: readonly Choice[];
  onPick: (value: string) => void;
}) {
  return (
    <Select.Root value={value} onValueChange={onPick}>
      <Select.Trigger
        aria-label={label}
        className="flex w-full items-baseline justify-between gap-2 rounded-xs border border-rule bg-field px-2 py-1 text-left hover:border-ink"
      >
        <span className="truncate">
          <Select.Value />
        </span>
        <span aria-hidden className="text-faint">
          ▾
        </span>
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={2}
          className="z-50 max-h-80 w-(--radix-select-trigger-width) overflow-hidden rounded-xs border border-rule bg-sheet"
        >
          <Select.Viewport {...(getNonce() ? { nonce: getNonce() } : {})}>
            {choices.map((c) => (
              <Select.Item
                key={c.value}
                value={c.value}
                className="cursor-default truncate px-2 py-1 outline-none data-highlighted:bg-band data-[state=checked]:font-semibold"
              >
                <Select.ItemText>{c.word}</Select.ItemText>
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}
