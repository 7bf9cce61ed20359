import type { Schema } from "../api/client";

/** Where a number comes from, in words. */
export function sourceText(it: Schema["SourceTag"]) {
  const head =
    it.kind === "published"
      ? `published, ${it.cite}`
      : it.kind === "house"
        ? `our own${it.cite ? `, after ${it.cite}` : ""}`
        : "common practice, no source";
  return `${head}${it.why ? `: ${it.why}` : ""}${it.fromMemory ? " (from memory)" : ""}`;
}
