import { t } from "@lingui/core/macro";
import { Popover } from "radix-ui";
import type { ReactNode } from "react";

/** The one small panel that opens from every number and decision. */
export function Reasons({ label, title, children }: { label: string; title: string; children: ReactNode }) {
  return (
    <Popover.Root>
      <Popover.Trigger className="btn-quiet" aria-label={`${label}: ${title}`}>
        {label}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          className="panel max-h-[min(70vh,var(--radix-popover-content-available-height))] w-[min(26rem,92vw)] overflow-auto text-[14px]"
          sideOffset={6}
          collisionPadding={12}
          aria-label={title}
        >
          <h3 className="mb-2">{title}</h3>
          {children}
          <Popover.Close className="btn mt-3 min-h-8">{t`Close`}</Popover.Close>
          <Popover.Arrow className="fill-ink" />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

export function Source({ text }: { text: string }) {
  return <p className="text-[13px] text-ink-2">{t`Source: ${text}`}</p>;
}
