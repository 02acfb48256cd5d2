import type { Point } from "../plane";

export function Cross({ at, unit, text }: { at: Point; unit: number; text: string }) {
  return (
    <g data-part="highlight-cross" transform={`translate(${at[0]} ${at[1]}) scale(${unit})`}>
      <g className="fill-none stroke-white stroke-[1.6] drop-shadow-[0_0_1px_#000]">
        <circle r={9} />
        <path d="M-20 0H-5M5 0H20M0-20V-5M0 5V20" />
      </g>
      <g transform="translate(26 -26)">
        <rect className="fill-white" y={-13} width={14 + 6.3 * text.length} height={19} />
        <text className="text-small font-[650]" x={7} y={1}>
          {text}
        </text>
      </g>
    </g>
  );
}
