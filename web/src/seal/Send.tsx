import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import * as acts from "../api/acts";
import { useAct, useAppState } from "../api/queries";
import type { Sending, SendRequest } from "../api/types";
import { Bar } from "../frame/Foot";
import { Choose } from "../shared/Choose";
import { FolderPicker } from "../shared/FolderPicker";
import { Field } from "../shared/kit";
import { Button, Trouble } from "../shared/parts";
import { tip } from "../shared/Tip";
import { bytes, timeLeft, when } from "../shared/words";

/** Send sends a sealed crate to a folder or a transfer service, and shows the receipts. */
export function Send({ id, crate }: { id: number; crate: string }) {
  const { data: state } = useAppState();
  const { data } = useQuery(acts.crates(id));
  const [by, setBy] = useState<"folder" | "service">("folder");
  const [folder, setFolder] = useState("");
  const [typed, setTyped] = useState<string | null>(null);
  const [token, setToken] = useState("");
  const address = typed ?? state?.service ?? "";
  const to = by === "folder" ? folder : address.trim();
  // Asking a service is an act of the person: nothing is called before, nor again by itself.
  const fits = useAct((to: string) => acts.carrier(id, { crate, to }));
  const takes = fits.variables === to ? fits.data : undefined;
  const send = useAct((r: SendRequest) => acts.send(id, r));
  const stop = useAct((job: string) => acts.stopJob(job));
  const job = state?.jobs.find((j) => j.kind === "send" && j.project === id);
  const running = job?.state === "running" ? job : undefined;
  const sent = data?.sent ?? [];
  const broken = sent.find((s) => s.path === crate && !s.receipt && s.to === to);
  return (
    <details className="mt-3 border-b border-rule pb-3" open={sent.length > 0 || running !== undefined || undefined}>
      <summary className="cursor-pointer py-1 font-medium">Send this crate</summary>
      <Choose
        label="Send to"
        value={by}
        onChoose={(v) => setBy(v as "folder" | "service")}
        choices={[
          { value: "folder", word: "folder or stick" },
          { value: "service", word: "transfer service" },
        ]}
      />
      <div className="mt-2 max-w-[560px]">
        {by === "folder" ? (
          <FolderPicker makes low onFolder={(p) => setFolder(p)} />
        ) : (
          <div className="grid gap-2">
            <Field
              aria-label="Address of the service"
              className="w-full"
              placeholder="https://…"
              value={address}
              onChange={(e) => setTyped(e.target.value)}
            />
            <Field
              aria-label="Token"
              type="password"
              autoComplete="off"
              className="w-full"
              placeholder="token, if the service asks for one; it is not stored"
              value={token}
              onChange={(e) => setToken(e.target.value)}
            />
            <p className="text-[12px] text-faint">
              For services with resumable uploads (tus 1.0). Nothing is sent before you press Send.
              {state?.service && address === state.service
                ? " This address is the simulated service of the sample data: it breaks off every 5 MB."
                : ""}
            </p>
          </div>
        )}
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <Button
          kind="smallFirst"
          disabled={to === "" || running !== undefined || send.isPending}
          onClick={() => send.mutate({ crate, to, token: by === "service" ? token : "" })}
        >
          {broken ? "Send again from where it stopped" : "Send"}
        </Button>
        <Button kind="small" disabled={to === "" || fits.isPending} onClick={() => fits.mutate(to)}>
          Does it fit?
        </Button>
        {takes ? (
          <span className={`text-[12px] ${takes.fits ? "text-moss" : "text-rust"}`}>
            {takes.fits
              ? `fits: ${bytes(takes.size)}${takes.limit > 0 ? ` of at most ${bytes(takes.limit)}` : ""}`
              : takes.why}
          </span>
        ) : null}
      </div>
      <Trouble error={send.error ?? fits.error} />
      {running ? (
        <div className="mt-2 flex items-center gap-3 text-[12px]">
          <span className="w-60 [&>svg]:h-2.5 [&>svg]:w-full">
            <Bar job={running} />
          </span>
          <span className="font-mono">
            {running.step} {running.total > 0 ? `${bytes(running.done)} of ${bytes(running.total)}` : ""}
            {running.left > 0 ? ` · ${timeLeft(running.left)}` : ""}
          </span>
          <Button kind="small" onClick={() => stop.mutate(running.id)}>
            Stop
          </Button>
        </div>
      ) : null}
      {sent.length > 0 ? (
        <ul className="mt-3" aria-label="Sent">
          {sent.map((s, i) => (
            <li key={i} className="border-b border-hair py-1">
              <Line s={s} />
            </li>
          ))}
        </ul>
      ) : null}
    </details>
  );
}

/** Line is one sending: to whom, when, and whether all of it arrived. */
function Line({ s }: { s: Sending }) {
  const name = s.crate.split("/").at(-1);
  return (
    <>
      <span className="font-medium">{name}</span>{" "}
      {s.receipt ? (
        <span className="text-moss">
          sent {when(s.ended ?? s.began)}
          {s.for ? ` to ${s.for}` : ""}, received whole
        </span>
      ) : (
        <span className="text-ochre">
          {s.trouble ? "not sent" : s.ended ? "stopped" : "not finished"} {when(s.began)}
        </span>
      )}
      <span className="block truncate font-mono text-[11.5px] text-faint" {...tip(s.receipt || s.to)}>
        {s.to}
        {s.bytes > 0 ? ` · ${bytes(s.bytes)}` : ""}
        {s.sha256 ? ` · SHA-256 ${s.sha256.slice(0, 12)}…` : ""}
      </span>
      {s.trouble ? <span className="block text-[12px] text-ink2">{s.trouble}</span> : null}
    </>
  );
}
