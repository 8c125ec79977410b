import { useEffect, useRef, type ReactNode } from "react";
import { useLocation } from "react-router";

import { useAppState, useProjectID } from "../api/queries";

/** The first page opened leaves the focus where the browser put it; every later one takes it. */
let opened = "";
/** The page that has taken it: while it waits for its data it may be laid anew. */
let took = "";

/**
 * Station lays a station's sheet beside its slip. It gives the page its one h1
 * and its title, and takes the focus when one comes to it from another.
 */
export function Station({
  name,
  sheet,
  slip,
  slipName,
}: {
  name: string;
  sheet: ReactNode;
  slip: ReactNode;
  slipName: string;
}) {
  const id = useProjectID();
  const { data: state } = useAppState();
  const project = state?.projects.find((p) => p.id === id);
  const { pathname } = useLocation();
  const heading = useRef<HTMLHeadingElement>(null);
  const title = project ? `${name} · ${project.name}` : name;
  useEffect(() => {
    document.title = `${title} · Bound Crate`;
  }, [title]);
  useEffect(() => {
    if (opened !== "" && opened !== pathname) took = pathname;
    if (took === pathname && (opened !== pathname || document.activeElement === document.body))
      heading.current?.focus();
    opened = pathname;
  }, [pathname]);
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_384px] max-[1100px]:grid-cols-[minmax(0,1fr)_340px] min-[1600px]:grid-cols-[minmax(0,1fr)_500px] narrow:h-auto narrow:grid-cols-[minmax(0,1fr)]">
      <main
        aria-label={name}
        className="flex min-h-0 min-w-0 flex-col border-r border-rule bg-sheet narrow:border-r-0 narrow:border-b"
      >
        <h1 ref={heading} tabIndex={-1} className="sr-only">
          {title}
        </h1>
        {sheet}
      </main>
      <aside
        aria-label={slipName}
        tabIndex={0}
        className="flex min-h-0 min-w-0 scroll-pb-36 flex-col overflow-y-auto bg-paper px-[18px] py-3.5 -outline-offset-2 narrow:overflow-y-visible"
      >
        {slip}
      </aside>
    </div>
  );
}

/** Acts are the things that can be done, at the foot of a slip. */
export function Acts({ children }: { children: ReactNode }) {
  return (
    <div className="sticky -bottom-3.5 mt-auto narrow:static narrow:mt-3 -mx-[18px] -mb-3.5 grid shrink-0 gap-2 border-t border-rule bg-paper px-[18px] py-3">
      {children}
    </div>
  );
}
