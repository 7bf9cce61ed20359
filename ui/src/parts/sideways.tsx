import { t } from "@lingui/core/macro";
import type { ReactNode } from "react";

/** Something wider than a small window; it scrolls by itself, by keyboard too. */
export function Sideways({
  label,
  className = "",
  children,
}: {
  label: string;
  className?: string;
  children: ReactNode;
}) {
  return (
    <section
      className={`relative overflow-x-auto ${className}`}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
      tabIndex={0}
      aria-label={t`${label}, scrolls sideways`}
    >
      {children}
    </section>
  );
}
