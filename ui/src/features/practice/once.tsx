import { t } from "@lingui/core/macro";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { moment } from "../../parts/dates";

export type Link = { token: string; until: string; way: "join" | "reset" };

/** What is shown once, ready to be copied; in columns where it is several lines. */
export function CopyBox({
  label,
  value,
  rows,
  columns,
  children,
}: {
  label: string;
  value: string;
  rows?: number;
  columns?: boolean;
  /** What stands beside it. */
  children?: ReactNode;
}) {
  const box = useRef<HTMLInputElement & HTMLTextAreaElement>(null);
  const [copied, setCopied] = useState(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: each new one is put in hand
  useEffect(() => {
    setCopied(false);
    box.current?.select();
  }, [value]);
  const lines = value.split("\n");
  const half = Math.ceil(lines.length / 2);
  const shown = columns
    ? lines.slice(0, half).map((l, i) => [l, lines[half + i]].filter(Boolean).join("   "))
    : lines;
  const rest = { ref: box, readOnly: true, "aria-label": label, value: shown.join("\n") };
  return (
    <div className="flex flex-wrap items-center gap-3">
      {rows ? (
        <textarea {...rest} rows={rows} className="field h-auto max-w-72 font-mono leading-relaxed" />
      ) : (
        <input {...rest} className="field max-w-2xl" />
      )}
      <button
        type="button"
        className="btn"
        onClick={() => {
          // Without https a page may not write to the clipboard: it is marked instead.
          const said = navigator.clipboard?.writeText(value);
          if (said) void said.then(() => setCopied(true));
          else box.current?.select();
        }}
      >
        {t`Copy`}
      </button>
      {children}
      <span role="status">{copied ? t`Copied.` : ""}</span>
    </div>
  );
}

/** A link on the one occasion it is shown. */
export function LinkOnce({ who, link, done }: { who: string; link: Link; done: () => void }) {
  return (
    <section aria-label={t`The link`} className="mb-6 max-w-4xl border-l-4 border-ink bg-paper p-4">
      <p className="mb-2">
        <b>{who}</b>
        {t`: give this link to that person alone. It is shown once, works once, and ends ${moment(link.until)}.`}
      </p>
      <CopyBox label={t`The link`} value={`${location.origin}/join#${link.token}`}>
        <button type="button" className="btn-quiet" onClick={done}>
          {t`Done`}
        </button>
      </CopyBox>
    </section>
  );
}
