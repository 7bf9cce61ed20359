import { t } from "@lingui/core/macro";

/** A side in words: left, right, both sides. */
export const sideName = (side: string) =>
  side === "left" ? t`left` : side === "right" ? t`right` : side === "both" ? t`both sides` : side;
