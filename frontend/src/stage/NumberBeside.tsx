import type { Point } from "./plane";

/** What the hand is changing, in numbers, beside it. */
export function NumberBeside({ at, unit, children }: { at: Point; unit: number; children: string }) {
  const width = (children.length * 6.6 + 14) * unit;
  return (
    <g className="number-beside" transform={`translate(${at[0]} ${at[1] + 12 * unit})`}>
      <rect width={width} height={20 * unit} />
      <text x={7 * unit} y={14 * unit} fontSize={12 * unit}>
        {children}
      </text>
    </g>
  );
}
