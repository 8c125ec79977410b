import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { api, query } from "../api/client";
import type { Peaks } from "../api/types";
import { useKeys } from "./keys";
import { length } from "./words";

/** Sound draws a recording's waveform and plays it; a click on the drawing jumps there. */
export function Sound({ path, space }: { path: string; space?: boolean }) {
  const audio = useRef<HTMLAudioElement>(null);
  const [playing, setPlaying] = useState(false);
  const [at, setAt] = useState(0);
  const { data, error } = useQuery({ queryKey: ["peaks", path], queryFn: () => api.get<Peaks>("/peaks", { path }) });
  const toggle = () => {
    const a = audio.current;
    if (!a) return;
    if (a.paused) void a.play().catch(() => setPlaying(false));
    else a.pause();
  };
  useKeys({ " ": space ? toggle : undefined });
  const n = data?.low.length ?? 0;
  const share = data && data.seconds > 0 ? at / data.seconds : 0;
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
        <svg
          viewBox={`0 -1 ${Math.max(n, 1)} 2`}
          preserveAspectRatio="none"
          className="h-10 min-w-0 flex-1 cursor-pointer"
          role="img"
          aria-label="Waveform"
          onClick={(e) => {
            const box = e.currentTarget.getBoundingClientRect();
            if (audio.current && data) audio.current.currentTime = ((e.clientX - box.left) / box.width) * data.seconds;
          }}
        >
          {data?.low.map((lo, i) => {
            const hi = data.high[i] ?? 0;
            return (
              <rect
                key={i}
                x={i}
                width=".7"
                y={-hi}
                height={Math.max(0.02, hi - lo)}
                className={i / n < share ? "fill-sea" : "fill-ink2"}
              />
            );
          })}
        </svg>
      )}
      <span className="font-mono text-[11px] whitespace-nowrap text-faint">
        {data ? length(data.seconds).slice(3, 11) : ""}
      </span>
      <audio
        ref={audio}
        preload="none"
        src={query("/api/media", { path })}
        onPlay={() => setPlaying(true)}
        onPause={() => setPlaying(false)}
        onEnded={() => setPlaying(false)}
        onTimeUpdate={(e) => setAt(e.currentTarget.currentTime)}
      />
    </div>
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
