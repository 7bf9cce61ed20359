import { i18n } from "@lingui/core";
import { TransNoContext, type TransProps } from "@lingui/react/server";

/** A text with elements in it; the macro of the same name writes it. */
export function Trans(p: TransProps) {
  return <TransNoContext {...p} lingui={{ i18n }} />;
}
