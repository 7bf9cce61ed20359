import { t } from "@lingui/core/macro";
import { useKeys } from "../../parts/keys";
import type { Point } from "./marked";
import type { Act, Desk, Side } from "./model";

const arrows = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
} as const;

/** How much further a nudge goes with Shift. */
const far = 10;

/** The keys of the desk: through the frames, events, the point in hand. */
export function useDeskKeys(k: {
  d: Desk;
  act: (a: Act) => void;
  go: (to: number) => void;
  count: number;
  photo: boolean;
  size: { width: number; height: number };
  where: (id: string) => Point | undefined;
  move: (id: string, to: Point) => void;
  drop: () => void;
  event: (foot: Side, kind: "contact" | "toe-off") => void;
  undo: () => void;
  redo: () => void;
}) {
  const { frame, chosen, playing } = k.d;
  const mine = (fn: (e: KeyboardEvent) => unknown) => (e: KeyboardEvent) =>
    e.target instanceof HTMLElement && e.target.closest("[role=dialog],input") ? false : fn(e);
  /** Nudges a chosen point, or goes through the frames. */
  const nudge = (dx: number, dy: number, by: number) =>
    mine(() => {
      const at = chosen ? k.where(chosen) : undefined;
      if (chosen && at)
        k.move(chosen, {
          x: Math.min(k.size.width, Math.max(0, at.x + dx * by)),
          y: Math.min(k.size.height, Math.max(0, at.y + dy * by)),
        });
      else if (dx !== 0) k.go(frame + dx);
      else return false;
    });
  useKeys([
    {
      show: "← →",
      does: t`a frame back, a frame on; nudge a chosen point, by ten with Shift`,
      on: Object.fromEntries(
        Object.entries(arrows).flatMap(([key, [dx, dy]]) => [
          [key, nudge(dx, dy, 1)],
          [`Shift+${key}`, nudge(dx, dy, far)],
        ]),
      ),
    },
    {
      show: t`PgUp PgDn`,
      does: t`ten frames`,
      on: { PageUp: mine(() => k.go(frame - 10)), PageDown: mine(() => k.go(frame + 10)) },
    },
    {
      show: t`Home End`,
      does: t`the first frame, the last`,
      on: { Home: mine(() => k.go(0)), End: mine(() => k.go(k.count - 1)) },
    },
    {
      show: "Space",
      does: t`play, stop`,
      on: {
        Space: mine((e) => {
          if (k.photo || (e.target instanceof HTMLElement && e.target.closest("button,a,label")))
            return false;
          k.act({ do: "play", on: !playing });
        }),
      },
    },
    {
      show: "q a",
      does: t`left foot: contact, toe-off`,
      on: { q: mine(() => k.event("left", "contact")), a: mine(() => k.event("left", "toe-off")) },
    },
    {
      show: "w s",
      does: t`right foot: contact, toe-off`,
      on: { w: mine(() => k.event("right", "contact")), s: mine(() => k.event("right", "toe-off")) },
    },
    { show: t`Tab Enter`, does: t`through the places; Enter puts one in the middle` },
    {
      show: "Del",
      does: t`take the chosen point away`,
      on: { Delete: mine(k.drop), Backspace: mine(k.drop) },
    },
    {
      show: t`Ctrl z y`,
      does: t`undo, redo`,
      on: { "$mod+z": mine(k.undo), "$mod+y": mine(k.redo) },
    },
    { show: "Esc", does: t`nothing chosen`, on: { Escape: mine(() => k.act({ do: "leave" })) } },
  ]);
}
