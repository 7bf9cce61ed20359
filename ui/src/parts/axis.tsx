import type { ReactNode } from "react";

/**
 * A drawing over time that is read place by place: hover, or focus and arrows. Some
 * of the columns at its end may stand empty.
 */
export function Axis({
  label,
  text,
  at,
  count,
  columns = count,
  page,
  width,
  height,
  wide,
  onAt,
  children,
}: {
  label: string;
  text: string;
  at: number;
  count: number;
  columns?: number;
  page: number;
  width: number;
  height: number;
  wide?: boolean;
  onAt: (i: number) => void;
  children: ReactNode;
}) {
  const go = (i: number) => onAt(Math.min(count - 1, Math.max(0, i)));
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={1}
      aria-valuemax={count}
      aria-valuenow={at + 1}
      aria-valuetext={text}
      className="overflow-x-auto rounded-[3px]"
      onKeyDown={(e) => {
        const by = {
          ArrowRight: 1,
          ArrowUp: 1,
          ArrowLeft: -1,
          ArrowDown: -1,
          PageUp: page,
          PageDown: -page,
          Home: -count,
          End: count,
        }[e.key];
        if (by) {
          e.preventDefault();
          go(at + by);
        }
      }}
    >
      <svg
        viewBox={`0 0 ${width} ${height}`}
        className={`block w-full ${wide ? "min-w-[40rem]" : ""}`}
        aria-hidden="true"
        onPointerMove={(e) => {
          const b = e.currentTarget.getBoundingClientRect();
          go(Math.floor(((e.clientX - b.left) / b.width) * columns));
        }}
      >
        {children}
      </svg>
    </div>
  );
}

/** Parts stacked on a base line, each as tall as its share of the most. */
export function Stack({
  x,
  width,
  base,
  height,
  most,
  parts,
}: {
  x: number;
  width: number;
  base: number;
  height: number;
  most: number;
  parts: readonly (readonly [amount: number, fill: string])[];
}) {
  let y = base;
  return parts.map(([amount, fill]) => {
    const tall = (amount / most) * height;
    y -= tall;
    return tall > 0 ? <rect key={fill} x={x} width={width} y={y} height={tall} fill={fill} /> : null;
  });
}
