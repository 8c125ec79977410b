import type { RulesTried } from "../api/types";
import { Mark } from "../shared/Mark";
import { Empty, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";

const columns = "grid grid-cols-[36px_96px_64px_minmax(0,.8fr)_minmax(0,1.7fr)_32px] gap-3 px-[18px]";

/** Finds lists what a rules file finds in the sample, and where each place leads. */
export function Finds({ tried, error, sample }: { tried: RulesTried | undefined; error: unknown; sample: string }) {
  const finds = tried?.finds ?? [];
  const wrong = (tried?.problems.length ?? 0) > 0;
  return (
    <section aria-label="Matches" className="flex min-h-0 flex-[2] flex-col">
      <div
        className={`${columns} border-b border-rule bg-band overflow-hidden py-1 text-[11.5px] text-faint [scrollbar-gutter:stable]`}
      >
        <span>line</span>
        <span>state</span>
        <span>use</span>
        <span>as written</span>
        <span>leads to</span>
        <span>rule</span>
      </div>
      <Trouble error={error} />
      {tried?.damage.map((d) => (
        <p key={d} className="border-b border-hair px-[18px] py-1 text-rust">
          {d}
        </p>
      ))}
      {finds.length > 0 ? (
        <ul className="min-h-0 flex-1 overflow-auto [scrollbar-gutter:stable]">
          {finds.map((f, i) => (
            <li key={i} className={`${columns} items-center border-b border-hair py-1`}>
              <span className="font-mono text-[12px] text-faint">{f.line}</span>
              <span className="flex items-center gap-2">
                {f.role === "write" ? null : <Mark state={f.state} />}
                {f.role === "write" ? "write point" : f.state}
              </span>
              <span className="text-faint">{f.use}</span>
              <span className="truncate font-mono text-[12px]" {...tip(f.written)}>
                {f.written}
              </span>
              <span className="truncate font-mono text-[12px] text-ink2" {...tip(f.path)}>
                {f.path}
              </span>
              <span className="font-mono text-[12px] text-faint">{f.rule}</span>
            </li>
          ))}
          {tried && tried.more > 0 ? <li className="px-[18px] py-1 text-faint">and {tried.more} more</li> : null}
        </ul>
      ) : (
        <Empty title={wrong ? "Not tried yet" : sample ? "No matches" : "No sample yet"}>
          {wrong
            ? "These rules have errors and cannot be used."
            : sample
              ? "No path in the sample matches these rules."
              : "Choose a sample document on the right. The paths that the rules find in it are listed here as you type."}
        </Empty>
      )}
    </section>
  );
}
