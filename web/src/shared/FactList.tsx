import type { Facts } from "../api/types";
import { Fact } from "./parts";
import { exact, length, short, when, count } from "./words";

export const soundWords = (f: Facts) =>
  f.rate
    ? [`${f.rate / 1000} kHz`, f.depth ? `${f.depth} bit` : "", f.channels ? `${f.channels} ch` : ""]
        .filter(Boolean)
        .join(" · ")
    : "";

export const modelWords = (f: Facts) =>
  [f.vertices ? `${count(f.vertices)} vertices` : "", f.faces ? `${count(f.faces)} faces` : ""]
    .filter(Boolean)
    .join(" · ");

/** FactList is what is known of a file: size, header facts, time, fingerprint. */
export function FactList({
  size,
  facts,
  modified,
  sha256,
}: {
  size: number;
  facts?: Facts | null;
  modified?: string | null;
  sha256?: string;
}) {
  return (
    <dl>
      {size >= 0 ? <Fact name="size">{exact(size)}</Fact> : null}
      {facts?.seconds ? <Fact name="length">{length(facts.seconds)}</Fact> : null}
      {facts?.rate ? <Fact name="sound">{soundWords(facts)}</Fact> : null}
      {facts?.width ? (
        <Fact name="frame">
          {facts.width} × {facts.height}
        </Fact>
      ) : null}
      {facts?.faces ? <Fact name="model">{modelWords(facts)}</Fact> : null}
      {facts?.id ? (
        <Fact name="id" more={facts.id}>
          {short(facts.id)}
        </Fact>
      ) : null}
      {modified ? <Fact name="changed">{when(modified)}</Fact> : null}
      {sha256 ? (
        <Fact name="content" more={`SHA-256 ${sha256}`}>
          {short(sha256)}
        </Fact>
      ) : null}
    </dl>
  );
}
