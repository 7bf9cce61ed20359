import { t } from "@lingui/core/macro";
import type { ReactNode } from "react";
import { sideName } from "./sidename";

export type Side = "left" | "right" | "both";

/** The side's own mark: left is round, right is square, both is the pair. */
export function SideMark({ side, size = 12 }: { side: Side; size?: number }) {
  const round = (x: number) => (
    <circle cx={x} cy="6" r="4.4" fill="none" stroke="var(--left)" strokeWidth="2.2" />
  );
  const square = (x: number) => (
    <rect x={x - 4} y="2" width="8" height="8" fill="none" stroke="var(--right)" strokeWidth="2.2" />
  );
  const wide = side === "both";
  return (
    <svg
      width={wide ? size * 2 : size}
      height={size}
      viewBox={wide ? "0 0 24 12" : "0 0 12 12"}
      aria-hidden="true"
    >
      {side === "left" && round(6)}
      {side === "right" && square(6)}
      {wide && (
        <>
          {round(6)}
          {square(18)}
        </>
      )}
    </svg>
  );
}

export function SideName({ side }: { side: Side }) {
  const hue = side === "left" ? "text-lefty" : side === "right" ? "text-righty" : "";
  return (
    <span className={`inline-flex items-center gap-1.5 font-semibold whitespace-nowrap ${hue}`}>
      <SideMark side={side} />
      {sideName(side)}
    </span>
  );
}

export type Verdict = "up" | "hold" | "back" | "stop";

/** A decision's drawn mark: peg up, flat bar, peg down, barred. */
export function DecisionMark({ verdict }: { verdict: Verdict }) {
  return (
    <svg width="18" height="16" viewBox="0 0 18 16" aria-hidden="true">
      {verdict === "up" && (
        <>
          <path d="M1 12h5V8h6v4h5" fill="none" stroke="currentColor" strokeWidth="2" />
          <rect x="7" y="0" width="4" height="8" fill="currentColor" />
        </>
      )}
      {verdict === "hold" && <path d="M1 8h16" stroke="currentColor" strokeWidth="3" />}
      {verdict === "back" && (
        <>
          <path d="M1 5h5v4h6V5h5" fill="none" stroke="currentColor" strokeWidth="2" />
          <rect x="7" y="8" width="4" height="8" fill="currentColor" />
        </>
      )}
      {verdict === "stop" && <path d="M1 8h16M5 2v12M13 2v12" stroke="currentColor" strokeWidth="2.4" />}
    </svg>
  );
}

export const verdictHue: Record<Verdict, string> = {
  up: "text-pine",
  hold: "text-ink",
  back: "text-clay",
  stop: "text-clay",
};

export function Logo() {
  return (
    <span className="display inline-flex items-center gap-2.5 text-[21px] font-bold">
      <svg width="34" height="24" viewBox="0 0 34 24" aria-hidden="true">
        <path d="M1 9h5v5h4V9h5v5h4V9h5v5h4V9h5v13H1z" fill="var(--ink)" />
        <rect x="19" y="1" width="4" height="13" rx="1" fill="var(--clay)" />
      </svg>
      {t`Notchback`}
    </span>
  );
}

export function Title({ children, aside }: { children: ReactNode; aside?: ReactNode }) {
  return (
    <div className="section-title">
      <h2>{children}</h2>
      {aside && <div className="text-[14px] text-ink-2">{aside}</div>}
    </div>
  );
}

/** The head of a table: plain names, numbers' own to the right. */
export function Heads({ names, right = [] }: { names: readonly string[]; right?: readonly string[] }) {
  return (
    <thead>
      <tr className="text-[13px] text-ink-2">
        {names.map((n) => (
          <th
            key={n}
            scope="col"
            className={`py-1 pr-3 font-normal ${right.includes(n) ? "text-right" : "text-left"}`}
          >
            {n}
          </th>
        ))}
      </tr>
    </thead>
  );
}
