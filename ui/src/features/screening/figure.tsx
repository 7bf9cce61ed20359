import { linesOf } from "./poses";

/** A small figure for each test. */
export function Figure({ test, station }: { test: string; station: string }) {
  const lines = linesOf(test, station);
  return (
    <svg
      viewBox="0 0 64 64"
      className="size-16 shrink-0"
      aria-hidden="true"
      fill="none"
      stroke="var(--ink)"
      strokeWidth="2.4"
      strokeLinecap="round"
      strokeLinejoin="round"
    >
      <path d="M4 60H60" stroke="var(--rule)" strokeWidth="2" />
      {lines.map((l) => {
        if (l[2] === -1) return <circle key={l.join()} cx={l[0]} cy={l[1]} r="4.6" fill="var(--paper)" />;
        const pairs: string[] = [];
        for (let i = 0; i < l.length; i += 2) pairs.push(`${l[i]} ${l[i + 1]}`);
        return <path key={l.join()} d={`M${pairs.join("L")}`} />;
      })}
    </svg>
  );
}
