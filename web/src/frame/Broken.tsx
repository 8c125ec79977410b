import type { FallbackProps } from "react-error-boundary";

import { Button, Empty } from "../shared/parts";
import { Station } from "./Station";

/** Broken stands where a station failed. The rest of the waybill, and all work under way, goes on. */
export function Broken({ error, resetErrorBoundary }: FallbackProps) {
  return (
    <Station
      name="This page could not be shown"
      slipName="What to do"
      sheet={
        <Empty title="This page could not be shown">
          <p className="mb-2">Nothing was lost. Your decisions are saved, and running work continues.</p>
          <p className="mb-4 font-mono text-[12px] text-rust">
            {error instanceof Error ? error.message : String(error)}
          </p>
          <Button kind="first" onClick={resetErrorBoundary}>
            Try again
          </Button>
        </Empty>
      }
      slip={null}
    />
  );
}
