import type { Schema } from "../../api/client";

type Marks = Schema["ClipMarks"];

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** A list of marks in which each has a name: what one side changed stands, what one side took away is gone. */
function lists<T>(
  name: (x: T) => string,
  base: readonly T[],
  mine: readonly T[],
  theirs: readonly T[],
  both: (b: T | undefined, m: T, t: T) => T = (b, m, t) => (same(m, b) ? t : m),
): T[] {
  const by = (list: readonly T[]) => new Map(list.map((x) => [name(x), x]));
  const [b, m, t] = [by(base), by(mine), by(theirs)];
  return [...new Set([...t.keys(), ...m.keys()])].flatMap((k) => {
    const [was, own, other] = [b.get(k), m.get(k), t.get(k)];
    if (own !== undefined && other !== undefined) return [both(was, own, other)];
    const left = own ?? other;
    // On one side only: it is new there, or the other side took it away.
    return left === undefined || (was !== undefined && same(left, was)) ? [] : [left];
  });
}

/** An object field by field. */
function fields<T extends object>(base: T | undefined, mine: T, theirs: T): T {
  const out: Record<string, unknown> = {};
  const [b, m, t] = [base ?? {}, mine, theirs] as Record<string, unknown>[];
  for (const k of new Set([...Object.keys(m ?? {}), ...Object.keys(t ?? {})])) {
    const v = same(m?.[k], b?.[k]) ? t?.[k] : m?.[k];
    if (v !== undefined) out[k] = v;
  }
  return out as T;
}

/**
 * What two people, or one on two devices, made of the marks they both began with: mark by
 * mark, so that nobody's is written over. Where both moved the same one, mine stands.
 */
export function merged(base: Marks, mine: Marks, theirs: Marks): Marks {
  return {
    ...fields(base, mine, theirs),
    picture: fields(base.picture, mine.picture, theirs.picture),
    moments: lists(
      (x) => `${x.frame}/${x.template}/${x.side}`,
      base.moments,
      mine.moments,
      theirs.moments,
      (b, m, t) => ({ ...fields(b, m, t), points: fields(b?.points, m.points, t.points) }),
    ),
    events: lists((x) => `${x.frame}/${x.foot}/${x.kind}`, base.events, mine.events, theirs.events),
    fixes: optional(
      lists((x) => `${x.frame}/${x.foot}/${x.place}`, base.fixes ?? [], mine.fixes ?? [], theirs.fixes ?? []),
    ),
    accepted: optional(
      lists((x) => `${x.from}/${x.to}`, base.accepted ?? [], mine.accepted ?? [], theirs.accepted ?? []),
    ),
  };
}

const optional = <T>(list: T[]) => (list.length > 0 ? list : undefined);
