import type { BlockDrawing } from "../api/client";
import { ontoCanvas, type Point } from "./plane";

const BEYOND_PX = 34;

/** Where the sections of the Form station are cut, as a draughtsman marks it. */
export function SectionMarks({ drawing, unit }: { drawing: BlockDrawing; unit: number }) {
  const dashes = [9, 3, 2, 3].map((length) => length * unit).join(" ");
  return drawing.sections.map((section) => {
    const reach = section.stroke / 2 + BEYOND_PX;
    const end = (side: number): Point =>
      ontoCanvas(drawing.plane, [section.x + side * section.across[0] * reach, section.y + side * section.across[1] * reach]);
    const ends = [end(-1), end(1)];
    return (
      <g key={section.mark} data-part="cutting-mark">
        <path className="fill-none stroke-sheet" d={`M${ends.join("L")}`} strokeWidth={1.5 * unit} strokeDasharray={dashes} />
        {ends.map(([x, y]) => (
          <g key={x} transform={`translate(${x} ${y}) scale(${unit})`}>
            <rect className="fill-sheet" x={-9} y={-9} width={18} height={18} />
            <text className="fill-ink text-small font-bold" y={4} textAnchor="middle">
              {section.mark}
            </text>
          </g>
        ))}
      </g>
    );
  });
}
