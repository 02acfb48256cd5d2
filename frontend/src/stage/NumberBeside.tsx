import type { Point } from "./plane";

/** What the hand is changing, in numbers, beside it. */
export function NumberBeside({ at, unit, children }: { at: Point; unit: number; children: string }) {
  const width = (children.length * 6.6 + 14) * unit;
  return (
    <g data-part="number-beside" transform={`translate(${at[0]} ${at[1] + 12 * unit})`}>
      <rect className="fill-paper stroke-rule-firm" width={width} height={20 * unit} />
      <text className="fill-ink tabular-nums" x={7 * unit} y={14 * unit} fontSize={12 * unit}>
        {children}
      </text>
    </g>
  );
}
