import { t } from "@lingui/core/macro";
import type { Schema } from "../../api/client";
import { SideName } from "../../parts/marks";

type Event = Schema["ClipEvent"];
type Marks = Schema["ClipMarks"];

const keyOf = { left: { contact: "q", "toe-off": "a" }, right: { contact: "w", "toe-off": "s" } } as const;

/** The stretches a foot is on the ground, and events that have no partner. */
export function downs(events: readonly Event[], foot: "left" | "right") {
  const out: { from: number; to: number | null }[] = [];
  const lone: number[] = [];
  for (const e of events.filter((x) => x.foot === foot).sort((a, b) => a.frame - b.frame)) {
    const last = out.at(-1);
    if (e.kind === "contact") out.push({ from: e.frame, to: null });
    else if (last && last.to === null) last.to = e.frame;
    else lone.push(e.frame);
  }
  return { out, lone };
}

/** Events per foot over the clip, so that a missed one is seen; keys and buttons set them. */
export function Strip({
  events,
  hollow,
  count,
  frame,
  onFrame,
  onEvent,
}: {
  events: readonly Event[];
  /** Whether an event is only proposed. */
  hollow?: (e: Event) => boolean;
  count: number;
  frame?: number;
  onFrame?: (f: number) => void;
  /** Sets or takes away an event of the frame on show; without it the strip only shows. */
  onEvent?: (foot: "left" | "right", kind: "contact" | "toe-off") => void;
}) {
  const x = (f: number) => (f / Math.max(1, count - 1)) * 1000;
  return (
    <section aria-label={t`Events of the feet`} className="mt-3">
      {(["left", "right"] as const).map((foot) => {
        const { out, lone } = downs(events, foot);
        const soft = (from: number, to: number) =>
          !!hollow &&
          events.some((e) => e.foot === foot && (e.frame === from || e.frame === to) && hollow(e));
        const hue = foot === "left" ? "var(--left)" : "var(--right)";
        return (
          <div key={foot} className="mb-1.5 flex flex-wrap items-center gap-2">
            <span className="w-16">
              <SideName side={foot} />
            </span>
            {onEvent &&
              (["contact", "toe-off"] as const).map((kind) => (
                <button
                  key={kind}
                  type="button"
                  className="btn min-h-8 px-2 text-[13px]"
                  aria-label={t`${kind} ${keyOf[foot][kind]}: ${foot} foot, this frame`}
                  onClick={() => onEvent(foot, kind)}
                >
                  {kind} <kbd className="key">{keyOf[foot][kind]}</kbd>
                </button>
              ))}
            {/* biome-ignore lint/a11y/useKeyWithClickEvents: arrows and buttons step the frames */}
            <svg
              viewBox="0 0 1000 26"
              preserveAspectRatio="none"
              className={`h-7 min-w-40 flex-1 bg-paper ${onFrame ? "cursor-pointer" : ""}`}
              role="img"
              aria-label={t`${foot}: on the ground ${out.map((d) => t`frames ${d.from + 1} to ${d.to === null ? t`not marked` : d.to + 1}`).join(", ") || t`not marked yet`}`}
              onClick={(e) => {
                const b = e.currentTarget.getBoundingClientRect();
                onFrame?.(Math.round(((e.clientX - b.left) / b.width) * (count - 1)));
              }}
            >
              {out.map((d) =>
                d.to === null ? (
                  <path
                    key={d.from}
                    d={`M${x(d.from)} 2V24`}
                    stroke={hue}
                    strokeWidth="5"
                    strokeDasharray="5 3"
                  />
                ) : (
                  <rect
                    key={d.from}
                    x={x(d.from)}
                    y="4"
                    width={Math.max(3, x(d.to) - x(d.from))}
                    height="18"
                    fill={soft(d.from, d.to) ? "none" : hue}
                    stroke={hue}
                    strokeWidth="3"
                    vectorEffect="non-scaling-stroke"
                  />
                ),
              )}
              {lone.map((f) => (
                <path
                  key={f}
                  d={`M${x(f)} 2V24`}
                  stroke="var(--clay)"
                  strokeWidth="5"
                  strokeDasharray="3 3"
                />
              ))}
              {frame !== undefined && <path d={`M${x(frame)} 0V26`} stroke="var(--ink)" strokeWidth="2.5" />}
            </svg>
          </div>
        );
      })}
    </section>
  );
}

/** The strip of what is proposed, or else of what is marked. */
export function Events({
  m,
  proposed,
  ...rest
}: Omit<Parameters<typeof Strip>[0], "events" | "hollow"> & {
  m: Marks;
  proposed: { events: readonly Marks["events"][number][] } | undefined;
}) {
  const list = proposed && proposed.events.length > 0 ? proposed.events : m.events;
  return (
    <Strip
      {...rest}
      events={list.map((e) => ({ frame: e.frame, foot: e.foot, kind: e.kind }))}
      hollow={(e) => !m.events.some((x) => x.frame === e.frame && x.foot === e.foot && x.kind === e.kind)}
    />
  );
}
