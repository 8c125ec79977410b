import { useProjectID, useSummary } from "../api/queries";
import { Station } from "../frame/Station";
import { Choose } from "../shared/Choose";
import { usePlace } from "../shared/place";
import { Documents } from "./Documents";
import { Files } from "./Files";
import { nowhere, type Narrow } from "./narrow";
import { Slip } from "./Slip";
import { Spread, useForm } from "./Spread";
import { Verdict } from "./Verdict";

/** Trace: what does it use, and where does that live? */
export function Trace() {
  const id = useProjectID();
  const place = usePlace();
  const { data: summary } = useSummary(id);
  const selected = place.get("sel");
  const { form, choice } = useForm();
  if (!summary) return null;
  const only = (narrow: Narrow) => place.set({ ...nowhere, ...narrow });
  const List = place.get("list") === "documents" ? Documents : Files;
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
        lead={
          <Choose
            label="What is listed"
            value={place.get("list") || "files"}
            onChoose={(list) =>
              place.set({ ...nowhere, list: list === "files" ? "" : list, sort: "", group: "", sel: "" })
            }
            choices={[
              { value: "files", word: "files" },
              { value: "documents", word: summary.documents === 1 ? "1 document" : `${summary.documents} documents` },
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
      slip={<Slip id={id} selected={selected} summary={summary} onState={(state) => only({ state })} />}
    />
  );
}
