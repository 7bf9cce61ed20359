import type { Schema } from "../api/client";

/** Where a number comes from, in words. */
export function sourceText(t: Schema["SourceTag"]) {
  const head =
    t.kind === "published"
      ? `published, ${t.cite}`
      : t.kind === "house"
        ? `our own${t.cite ? `, after ${t.cite}` : ""}`
        : "common practice, no source";
  return `${head}${t.why ? `: ${t.why}` : ""}${t.fromMemory ? " (from memory)" : ""}`;
}
