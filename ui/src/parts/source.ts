import { t } from "@lingui/core/macro";
import type { Schema } from "../api/client";

/** Where a number comes from, in words. */
export function sourceText(it: Schema["SourceTag"]) {
  const head =
    it.kind === "published"
      ? t`published, ${it.cite ?? ""}`
      : it.kind === "house"
        ? t`our own${it.cite ? t`, after ${it.cite}` : ""}`
        : t`common practice, no source`;
  return `${head}${it.why ? `: ${it.why}` : ""}${it.fromMemory ? t` (from memory)` : ""}`;
}
