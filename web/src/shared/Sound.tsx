import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";

import * as acts from "../api/acts";
import { asks, query } from "../api/client";
import type { Peaks } from "../api/types";
import { useKeys } from "./keys";
import { length } from "./words";

/** Used is a part of a recording, in seconds; a duration of 0 is up to its end. */
export interface Used {
  start: number;
  duration: number;
}

/** ask is for the waveform of a file, or of one that is missing, as it was last seen. */
const ask = (path: string, from: "peaks" | "look") =>
  from === "peaks" ? acts.peaks({ path }) : asks<Peaks>(["look", path], "/look", { path });
const usePeaks = (path: string, from: "peaks" | "look") => useQuery({ ...ask(path, from), retry: false });

/** Sound draws a recording's waveform and plays it; a click on the drawing jumps there. */
export function Sound({ path, space, used }: { path: string; space?: boolean; used?: readonly Used[] }) {
  const audio = useRef<HTMLAudioElement>(null);
  const [playing, setPlaying] = useState(false);
  const [at, setAt] = useState(0);
  const until = useRef(Infinity);
  const { data, error } = usePeaks(path, "peaks");
  const first = used?.find((u) => data && u.start < data.seconds);
  const play = (from: number | null, to: number) => {
    const a = audio.current;
    if (!a) return;
    until.current = to;
    if (from !== null) a.currentTime = from;
    void a.play().catch(() => setPlaying(false));
  };
  const toggle = () => (audio.current?.paused ? play(null, Infinity) : audio.current?.pause());
  useKeys({ " ": space ? toggle : undefined });
  return (
    <div className="flex items-center gap-2 border border-rule bg-field p-1.5">
      <button
        type="button"
        onClick={toggle}
        aria-label={playing ? "Stop playing" : "Play"}
        className="grid size-7 shrink-0 place-items-center rounded-xs border border-ink hover:bg-band"
      >
        <svg viewBox="0 0 10 10" width="10" height="10" fill="currentColor" aria-hidden>
          {playing ? <path d="M1 1h3v8H1zM6 1h3v8H6z" /> : <path d="M2 .5l7 4.5-7 4.5z" />}
        </svg>
      </button>
      {error ? (
        <span className="flex-1 text-[12px] text-faint">{error.message}</span>
      ) : (
        <Waveform
          label="Waveform"
          of={data}
          played={data && data.seconds > 0 ? at / data.seconds : 0}
          used={used}
          onJump={(share) => {
            if (audio.current && data) audio.current.currentTime = share * data.seconds;
          }}
        />
      )}
      <span className="w-[76px] text-right font-mono text-[11px] whitespace-nowrap text-faint">
        {data ? length(data.seconds).slice(3, 11) : ""}
        {first ? (
          <button
            type="button"
            className="block w-full text-right text-sea underline"
            onClick={() => play(first.start, first.duration > 0 ? first.start + first.duration : Infinity)}
          >
            {" "}
            part in use{" "}
          </button>
        ) : null}
      </span>
      <audio
        ref={audio}
        preload="none"
        src={query("/api/media", { path })}
        onPlay={() => setPlaying(true)}
        onPause={() => setPlaying(false)}
        onEnded={() => setPlaying(false)}
        onTimeUpdate={(e) => {
          setAt(e.currentTarget.currentTime);
          if (e.currentTarget.currentTime >= until.current) e.currentTarget.pause();
        }}
      />
    </div>
  );
}

/** Waveform draws lowest and highest samples; what is used stands on a band, and what lies beyond the end is told. */
function Waveform({
  of,
  label,
  played = 0,
  used = [],
  onJump,
}: {
  of: Peaks | undefined;
  label: string;
  played?: number;
  used?: readonly Used[] | undefined;
  onJump?: (share: number) => void;
}) {
  const n = of?.low.length ?? 0;
  const share = (seconds: number) => (of && of.seconds > 0 ? Math.min(1, seconds / of.seconds) * n : 0);
  return (
    <svg
      viewBox={`0 -1 ${Math.max(n, 1)} 2`}
      preserveAspectRatio="none"
      className={`h-10 min-w-0 flex-1 ${onJump ? "cursor-pointer" : ""}`}
      role="img"
      aria-label={label}
      onClick={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        onJump?.((e.clientX - box.left) / box.width);
      }}
    >
      {used.map((u, i) => (
        <rect
          key={i}
          x={share(u.start)}
          y="-1"
          height="2"
          width={Math.max(0, (u.duration > 0 ? share(u.start + u.duration) : n) - share(u.start))}
          className="fill-seawash"
        />
      ))}
      {of?.low.map((lo, i) => {
        const hi = of.high[i] ?? 0;
        return (
          <rect
            key={i}
            x={i}
            width=".7"
            y={-hi}
            height={Math.max(0.02, hi - lo)}
            className={i / n < played ? "fill-sea" : "fill-ink2"}
          />
        );
      })}
    </svg>
  );
}

/** LastSound is what a missing recording looked like. */
export function LastSound({ path, used }: { path: string; used: readonly Used[] }) {
  const { data } = usePeaks(path, "look");
  if (!data) return null;
  return (
    <div className="mb-1 flex items-center gap-2 border border-dashed border-rule p-1.5">
      <span className="w-7 shrink-0 text-[11px] leading-tight text-faint">last seen</span>
      <Waveform label="Waveform when last seen" of={data} used={used} />
      <span className="w-[76px] text-right font-mono text-[11px] whitespace-nowrap text-faint">
        {length(data.seconds).slice(3, 11)}
      </span>
    </div>
  );
}

/** Pictures lays a picture over what the missing one looked like; a slider moves the edge between them. */
export function Pictures({ path, last }: { path: string; last: string }) {
  const [edge, setEdge] = useState(50);
  return (
    <figure>
      <div className="relative border border-rule bg-field">
        <img src={query("/api/media", { path })} alt="the candidate" className="max-h-44 w-full object-contain" />
        <img
          src={query("/api/look", { path: last })}
          alt="when last seen"
          className="absolute inset-0 size-full object-contain"
          style={{ clipPath: `inset(0 ${100 - edge}% 0 0)` }}
        />
      </div>
      <input
        type="range"
        min={0}
        max={100}
        value={edge}
        onChange={(e) => setEdge(Number(e.target.value))}
        aria-label="Edge between last seen and candidate"
        className="w-full accent-sea"
      />
      <figcaption className="flex justify-between text-[11px] text-faint">
        <span>last seen</span>
        <span>candidate</span>
      </figcaption>
    </figure>
  );
}

export function Picture({ path }: { path: string }) {
  return (
    <img
      src={query("/api/media", { path })}
      alt={path.split("/").at(-1) ?? ""}
      className="max-h-44 w-full border border-rule bg-field object-contain"
    />
  );
}
