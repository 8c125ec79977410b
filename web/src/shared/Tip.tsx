import { Tooltip } from "radix-ui";
import { useEffect, useState } from "react";

/** tip marks what has more to say when it is pointed at or has the focus. */
export const tip = (text: string | undefined | null) => (text ? { "data-tip": text } : {});

interface Shown {
  text: string;
  box: DOMRect;
}

/**
 * Tips shows them, all by one tooltip: a ledger has hundreds of cells, and none
 * of them has to pay for its own. It waits a moment, stays while it is pointed
 * at, and goes with Escape (WCAG 2.2 §1.4.13).
 */
export function Tips() {
  const [shown, setShown] = useState<Shown | null>(null);
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let over: Element | null = null;
    const show = (e: Event, wait: number) => {
      const at = (e.target as Element).closest("[data-tip]");
      if ((e.target as Element).closest("[role=tooltip], [data-tips]")) return clearTimeout(timer);
      if (at === over) return;
      over = at;
      clearTimeout(timer);
      const text = at?.getAttribute("data-tip");
      if (!at || !text) timer = setTimeout(() => setShown(null), 120);
      else timer = setTimeout(() => setShown({ text, box: at.getBoundingClientRect() }), wait);
    };
    const away = () => {
      clearTimeout(timer);
      over = null;
      setShown(null);
    };
    const point = (e: Event) => show(e, 450);
    const focus = (e: Event) => (e.target as Element).matches(":focus-visible") && show(e, 0);
    const key = (e: KeyboardEvent) => e.key === "Escape" && away();
    document.addEventListener("pointerover", point);
    document.addEventListener("focusin", focus);
    document.addEventListener("pointerdown", away);
    document.addEventListener("scroll", away, true);
    document.addEventListener("keydown", key);
    return () => {
      clearTimeout(timer);
      document.removeEventListener("pointerover", point);
      document.removeEventListener("focusin", focus);
      document.removeEventListener("pointerdown", away);
      document.removeEventListener("scroll", away, true);
      document.removeEventListener("keydown", key);
    };
  }, []);
  if (!shown) return null;
  const { left, top, width, height } = shown.box;
  return (
    <Tooltip.Provider>
      <Tooltip.Root open>
        <Tooltip.Trigger asChild>
          <span aria-hidden className="pointer-events-none fixed" style={{ left, top, width, height }} />
        </Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content
            data-tips
            side="bottom"
            align="start"
            sideOffset={3}
            collisionPadding={8}
            className="z-30 max-w-[560px] border border-ink bg-sheet px-2 py-1 text-[12px] leading-snug wrap-anywhere whitespace-pre-line text-ink"
          >
            {shown.text}
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  );
}
