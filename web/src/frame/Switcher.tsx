import { DropdownMenu } from "radix-ui";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";

import type { AppState } from "../api/types";
import { Field } from "../shared/kit";
import { byRecent, useRecent } from "./recent";

const menuItem = "block cursor-pointer px-3 py-1.5 outline-none data-[highlighted]:bg-seawash";

interface SwitcherProps {
  state: AppState | undefined;
  id: number;
  open: boolean;
  onOpen: (open: boolean) => void;
}

/** Switcher names the open project, and lists all: those opened last first, narrowed by what is typed. */
export function Switcher({ state, id, open, onOpen }: SwitcherProps) {
  const go = useNavigate();
  useRecent(id);
  const [filter, setFilter] = useState("");
  const list = useRef<HTMLDivElement>(null);
  const field = useRef<HTMLInputElement>(null);
  const project = state?.projects.find((p) => p.id === id);
  const words = filter.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = byRecent(state?.projects ?? []).filter((p) => {
    const text = `${p.name} ${p.labels.join(" ")}`.toLowerCase();
    return words.every((w) => text.includes(w));
  });
  const turn = (to: boolean) => {
    if (to) setFilter("");
    onOpen(to);
  };
  return (
    <DropdownMenu.Root open={open} onOpenChange={turn}>
      <DropdownMenu.Trigger className="flex min-w-0 items-baseline border-l border-headfaint/40 pl-4 text-left">
        <span className="truncate">{project ? project.name : "No project open"}</span>
        {project ? (
          <span className="truncate">
            <span className="px-1.5 text-headfaint">›</span>
            <b className="font-medium">
              {project.labels[0]?.split("/").at(-1)}
              {project.labels.length > 1 ? ` and ${project.labels.length - 1} more` : ""}
            </b>
          </span>
        ) : null}
        <kbd className="ml-2 rounded-xs border border-headfaint/50 px-1 font-mono text-[11px] text-headfaint">p</kbd>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={8}
          onKeyDownCapture={(e) => {
            // A letter begins to filter, wherever in the menu the focus is.
            if (e.key.length !== 1 || e.key === " " || e.ctrlKey || e.metaKey || e.target === field.current) return;
            e.stopPropagation();
            field.current?.focus();
          }}
          className="z-20 flex max-h-96 w-80 flex-col border border-ink bg-sheet py-1 text-ink"
        >
          <div className="px-3 py-1">
            <Field
              ref={field}
              low
              className="w-full"
              aria-label="Filter projects"
              placeholder="filter projects"
              value={filter}
              onChange={(e) => setFilter(e.target.value)}
              onKeyDown={(e) => {
                const first = list.current?.querySelector<HTMLElement>("[role=menuitem]");
                if (e.key === "ArrowDown") first?.focus();
                if (e.key === "Enter") first?.click();
                // What is typed here is no search among the items, which the menu would make of it.
                if (e.key !== "Escape" && e.key !== "Tab") e.stopPropagation();
              }}
            />
          </div>
          <div ref={list} className="min-h-0 overflow-auto">
            {shown.map((p) => (
              <DropdownMenu.Item key={p.id} className={menuItem} onSelect={() => void go(`/p/${p.id}/trace`)}>
                <span className={p.id === id ? "font-semibold" : ""}>{p.name}</span>
                <span className="block truncate font-mono text-[11.5px] text-faint">{p.labels.join(", ")}</span>
              </DropdownMenu.Item>
            ))}
            {shown.length === 0 ? <p className="px-3 py-1.5 text-faint">No projects match</p> : null}
          </div>
          <DropdownMenu.Separator className="my-1 h-px bg-rule" />
          <DropdownMenu.Item className={menuItem} onSelect={() => void go("/")}>
            All projects · add a project
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
