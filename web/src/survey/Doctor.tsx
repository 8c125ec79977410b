import { useQuery } from "@tanstack/react-query";

import * as acts from "../api/acts";
import type { Tested } from "../api/types";
import { Acts, Station } from "../frame/Station";
import { Asked, Button, Section } from "../shared/parts";

const broken = (p: Tested) => p.silent || p.tried.some((t) => t.needed && !t.can);

/** Doctor: what works on this machine and what does not, by trying it. */
export function Doctor() {
  const { data, error, refetch, isFetching } = useQuery({
    ...acts.doctor(),
    staleTime: 0,
  });
  return (
    <Asked error={error} data={data} waiting="Testing the data folder and every drive.">
      {(said) => (
        <Station
          name="Doctor"
          slipName="Summary"
          sheet={
            <div className="min-h-0 overflow-auto px-[18px] py-4" tabIndex={0} role="group" aria-label="Tests">
              {said.folders.map((f) => (
                <Section key={f.dir} title={f.name} aside={f.dir}>
                  {f.silent ? <p className="text-rust">It did not respond in time.</p> : null}
                  {!f.there && !f.silent ? <p className="text-faint">It is not connected.</p> : null}
                  <ul>
                    {f.tried.map((t) => (
                      <li key={t.what} className="grid grid-cols-[90px_minmax(0,1fr)] gap-3 border-b border-hair py-1">
                        <span className={t.can ? "text-moss" : t.needed ? "text-rust" : "text-ochre"}>
                          {t.can ? "works" : t.needed ? "fails" : "not available"}
                        </span>
                        <span>{t.says}</span>
                      </li>
                    ))}
                  </ul>
                </Section>
              ))}
            </div>
          }
          slip={
            <>
              <h2 className="text-[22px]">
                {said.well ? "Everything required works" : "Something required does not work"}
              </h2>
              <p className="mt-2 text-ink2">
                {said.database === "" ? "The database is intact." : `The database: ${said.database}`}
              </p>
              {said.folders.filter(broken).map((f) => (
                <p key={f.dir} className="mt-2 border-l-[3px] border-rust pl-2">
                  {f.name}:{" "}
                  {f.silent
                    ? "it did not respond in time."
                    : `${f.tried
                        .filter((t) => t.needed && !t.can)
                        .map((t) => t.says)
                        .join("; ")}.`}
                </p>
              ))}
              <p className="mt-2 text-[12px] text-faint">
                Each line was tested just now with small files, which were deleted again.
                {said.version ? ` This is version ${said.version}.` : ""}
              </p>
              <Acts>
                <Button kind="first" disabled={isFetching} onClick={() => void refetch()}>
                  Test again
                </Button>
              </Acts>
            </>
          }
        />
      )}
    </Asked>
  );
}
