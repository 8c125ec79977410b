import { useProjectID, useSummary } from "../api/queries";
import { Station } from "../frame/Station";
import { Choose } from "../shared/Choose";
import { usePlace } from "../shared/place";
import { plural } from "../shared/words";
import { Documents } from "./Documents";
import { Files } from "./Files";
import { nowhere, type Narrow } from "./narrow";
import { Problems, ProblemSlip } from "./Problems";
import { Slip } from "./Slip";
import { Spread, useForm } from "./Spread";
import { Verdict } from "./Verdict";

const lists: Record<string, typeof Files> = { documents: Documents, problems: Problems };

/** Trace: what does it use, and where does that live? */
export function Trace() {
  const id = useProjectID();
  const place = usePlace();
  const { data: summary } = useSummary(id);
  const selected = place.get("sel");
  const { form, choice } = useForm();
  if (!summary) return null;
  const only = (narrow: Narrow) => place.set({ ...nowhere, ...narrow });
  const list = place.get("list") || "files";
  const List = lists[list] ?? Files;
  const sheet = (
    <>
      <Verdict summary={summary} onOnly={only} aside={choice} />
      <Spread
        form={form}
        summary={summary}
        at={{ place: place.get("place"), document: place.get("document") }}
        onOnly={only}
      />
      <List
        id={id}
        selected={selected}
        onSelect={(sel) => place.set({ sel })}
        onNone={() => place.set({ sel: "" })}
        lead={
          <Choose
            label="What is listed"
            value={list}
            onChoose={(list) =>
              place.set({ ...nowhere, list: list === "files" ? "" : list, sort: "", group: "", sel: "" })
            }
            choices={[
              { value: "files", word: "files" },
              { value: "documents", word: plural(summary.documents, "document") },
              ...(summary.problems > 0 ? [{ value: "problems", word: plural(summary.problems, "problem") }] : []),
            ]}
          />
        }
      />
    </>
  );
  return (
    <Station
      name="Trace"
      slipName="What is selected"
      sheet={sheet}
      slip={
        list === "problems" ? (
          <ProblemSlip id={id} at={selected} />
        ) : (
          <Slip id={id} selected={selected} summary={summary} onState={(state) => only({ state })} />
        )
      }
    />
  );
}
