import { t } from "@lingui/core/macro";
import type { ReactNode } from "react";

/** A row of numbers under a thumb; what is chosen is dark. */
export function Scale({
  label,
  value,
  onPick,
  from = 0,
  to = 10,
  low,
  high,
  middle,
}: {
  label: string;
  value: number | undefined;
  onPick: (n: number) => void;
  from?: number;
  to?: number;
  low?: string;
  high?: string;
  middle?: string;
}) {
  return (
    <fieldset>
      <legend className="sr-only">{label}</legend>
      <div
        className="grid gap-[4px]"
        style={{ gridTemplateColumns: `repeat(${to - from + 1}, minmax(0, 1fr))` }}
      >
        {Array.from({ length: to - from + 1 }, (_, i) => from + i).map((n) => (
          <button
            key={n}
            type="button"
            aria-pressed={value === n}
            aria-label={`${label}: ${n}`}
            className={`min-h-13 rounded-[3px] border-[1.5px] border-ink text-[17px] font-semibold ${value === n ? "bg-ink text-chalk" : "bg-paper"}`}
            onClick={() => onPick(n)}
          >
            {n}
          </button>
        ))}
      </div>
      {(low || middle || high) && (
        <p className="mt-1 flex justify-between gap-2 text-[14px] text-ink-2" aria-hidden="true">
          <span>{low}</span>
          <span>{middle}</span>
          <span>{high}</span>
        </p>
      )}
    </fieldset>
  );
}

/** A card with a strong line above it. */
export function Card({ tone = "ink", children }: { tone?: "ink" | "pine" | "clay"; children: ReactNode }) {
  const edge = { ink: "border-ink", pine: "border-pine", clay: "border-clay" }[tone];
  return <section className={`border-t-3 ${edge} bg-paper p-3.5`}>{children}</section>;
}

/** The one thing to do next, within reach of the thumb. */
export function Main({
  children,
  onClick,
  disabled,
}: {
  children: ReactNode;
  onClick: () => void;
  disabled?: boolean;
}) {
  return (
    <button
      type="button"
      className="btn btn-main min-h-14 w-full text-[18px] whitespace-normal"
      disabled={disabled}
      onClick={onClick}
    >
      {children}
    </button>
  );
}

/** A choice of a few words, on or off. */
export function Chip({ on, onClick, children }: { on: boolean; onClick: () => void; children: ReactNode }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      className={`min-h-12 rounded-[3px] border-[1.5px] border-ink px-3 text-left font-semibold ${on ? "bg-ink text-chalk" : "bg-paper"}`}
      onClick={onClick}
    >
      {children}
    </button>
  );
}

/** A page of its own, with a way back at the top. */
export function Page({
  title,
  aside,
  back,
  children,
  foot,
}: {
  title: string;
  aside?: ReactNode;
  back?: () => void;
  children: ReactNode;
  foot?: ReactNode;
}) {
  return (
    <div className="mx-auto flex h-dvh w-full max-w-lg flex-col">
      <header className="flex min-h-13 items-center justify-between gap-3 border-b-2 border-ink bg-chalk px-4">
        <h1 className="text-[17px] leading-tight">{title}</h1>
        <span className="flex items-center gap-3 text-[14px] text-ink-2">
          {aside}
          {back && (
            <button type="button" className="btn min-h-10 px-3 text-ink" onClick={back}>
              {t`Back`}
            </button>
          )}
        </span>
      </header>
      <main className="min-h-0 flex-1 overflow-y-auto px-4 py-3">{children}</main>
      {foot && <footer className="border-t border-rule bg-chalk px-4 pt-2 pb-4">{foot}</footer>}
    </div>
  );
}

/** What stands kept here, with the coach, or refused. */
export function Place({ kept, online }: { kept: readonly { told: string }[]; online: boolean }) {
  const waiting = kept.filter((k) => k.told === "kept").length;
  const refused = kept.filter((k) => k.told === "refused").length;
  if (refused > 0) return <b className="text-clay">{t`▲ ${refused} not taken`}</b>;
  if (waiting > 0) return <span>{t`${online ? t`sending` : t`no network`}, kept here`}</span>;
  return <span>{online ? t`with your coach` : t`no network`}</span>;
}
