import { useState } from "react";

import * as acts from "../api/acts";
import { useAct } from "../api/queries";
import { Button, Trouble } from "./parts";

/** PathActs copies a path, or opens its folder in the machine's file manager. */
export function PathActs({ path }: { path: string }) {
  const [copied, setCopied] = useState("");
  const reveal = useAct((p: string) => acts.reveal({ path: p }));
  return (
    <>
      <span className="mt-1 mb-2 flex gap-2">
        <Button kind="small" onClick={() => void navigator.clipboard.writeText(path).then(() => setCopied(path))}>
          {copied === path ? "Copied" : "Copy path"}
        </Button>
        <Button kind="small" disabled={reveal.isPending} onClick={() => reveal.mutate(path)}>
          Open folder
        </Button>
      </span>
      <Trouble error={reveal.error} onAway={reveal.reset} />
    </>
  );
}
