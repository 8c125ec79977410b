import type { ReactNode } from "react";

/** Station lays a station's sheet beside its slip. */
export function Station({ name, sheet, slip, slipName }: { name: string; sheet: ReactNode; slip: ReactNode; slipName: string }) {
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_384px] max-[1100px]:grid-cols-[minmax(0,1fr)_340px]">
      <main aria-label={name} className="flex min-h-0 min-w-0 flex-col border-r border-rule bg-sheet">
        {sheet}
      </main>
      <aside aria-label={slipName} className="flex min-h-0 min-w-0 flex-col overflow-y-auto bg-paper px-[18px] py-3.5">
        {slip}
      </aside>
    </div>
  );
}

/** Acts are the things that can be done, at the foot of a slip. */
export function Acts({ children }: { children: ReactNode }) {
  return <div className="sticky -bottom-3.5 mt-auto shrink-0 -mx-[18px] -mb-3.5 grid gap-2 border-t border-rule bg-paper px-[18px] py-3">{children}</div>;
}
