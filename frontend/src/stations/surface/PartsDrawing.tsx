import { Coupon } from "../../components/Drawn";
import { useBlock, useLive } from "../../live/store";
import { SHEET } from "../../ui/Drawing";
import type { PartState } from "./SurfaceStation";

const [WIDTH, ROW] = [286, 33];
const DRAWN = { left: 10, width: 88, top: 10 };
const LIST_X = 126;
/** What a part that is dragged is called. */
const DRAGGED = "application/x-halvex-part";

interface Props {
  parts: readonly PartState[];
  picked: string;
  onPick: (part: string) => void;
  /** Gives a part the colour of another that was dragged onto it. */
  onColourAs: (part: string, from: string) => void;
}

/** The section as the list of parts: a leader from each to its material. */
export function PartsDrawing({ parts, picked, onPick, onColourAs }: Props) {
  const { index } = useBlock();
  const section = useLive((live) => live.piece?.drawings.blocks[index]?.sections[0]);
  const height = parts.length * ROW + 14;
  const points = section?.pieces.flatMap((piece) => piece.outline) ?? [];
  const [xs, zs] = [points.map(([x]) => x), points.map(([, z]) => z)];
  const box = { left: Math.min(...xs), right: Math.max(...xs), top: Math.max(...zs), bottom: Math.min(...zs) };
  const scale = Math.min(DRAWN.width / (box.right - box.left), (height - 2 * DRAWN.top) / (box.top - box.bottom));
  const middle = (height - (box.top - box.bottom) * scale) / 2;
  const at = ([x, z]: readonly [number, number]): [number, number] => [
    DRAWN.left + (DRAWN.width - (box.right - box.left) * scale) / 2 + (x - box.left) * scale,
    middle + (box.top - z) * scale,
  ];
  return (
    <div className={`${SHEET} relative`} style={{ height }}>
      {section && (
        <svg
          className="absolute inset-0 size-full"
          viewBox={`0 0 ${WIDTH} ${height}`}
          role="img"
          aria-label="Section with its parts"
        >
          <defs>
            <pattern id="parts-hatch" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
              <line x1="0" y1="0" x2="0" y2="5" stroke="var(--color-ink-3)" strokeWidth=".8" />
            </pattern>
          </defs>
          {section.pieces.map(({ part, outline }, i) => (
            <path
              key={i}
              d={`${outline.map((point, k) => `${k ? "L" : "M"}${at(point).map((v) => v.toFixed(1))}`).join("")}Z`}
              fill="url(#parts-hatch)"
              stroke="var(--color-ink)"
              strokeWidth={part === "body" ? 1.5 : 1}
            />
          ))}
          {parts.map((part, row) => {
            const point = section.points[part.part];
            if (!point) return null;
            const [x, y] = at(point);
            const to = 7 + (row + 0.5) * ROW;
            const bend = DRAWN.left + DRAWN.width + 4 + 3 * row;
            return (
              <g key={part.part} data-picked={part.part === picked || undefined} className="group/leader">
                <path
                  className="fill-none stroke-ink-3 group-data-picked/leader:stroke-verdigris group-data-picked/leader:stroke-[1.6]"
                  d={`M${x} ${y}L${bend} ${to}H${LIST_X - 4}`}
                />
                <circle className="fill-ink group-data-picked/leader:fill-verdigris" cx={x} cy={y} r={2.2} />
              </g>
            );
          })}
        </svg>
      )}
      <ul aria-label="Parts" className="absolute top-[7px] right-1" style={{ left: `${(LIST_X / WIDTH) * 100}%` }}>
        {parts.map((part) => (
          <li key={part.part}>
            <button
              type="button"
              aria-pressed={part.part === picked}
              title={part.material ? "Drag onto another part to give it this colour" : undefined}
              draggable={part.material !== null}
              onDragStart={(event) => event.dataTransfer.setData(DRAGGED, part.part)}
              onDragOver={(event) => event.dataTransfer.types.includes(DRAGGED) && event.preventDefault()}
              onDrop={(event) => {
                const from = event.dataTransfer.getData(DRAGGED);
                if (from && from !== part.part) onColourAs(part.part, from);
              }}
              className="flex h-[33px] w-full items-center gap-2 rounded-sheet border-2 border-transparent pr-1 pl-0.5 text-left leading-[1.15] font-semibold aria-pressed:border-verdigris aria-pressed:text-verdigris"
              onClick={() => onPick(part.part)}
            >
              {part.material ? (
                <Coupon material={part.material} size="h-[27px] w-10" />
              ) : (
                <span className="h-[27px] w-10 shrink-0 bg-paper-recess" />
              )}
              <span className="min-w-0 first-letter:uppercase">
                {part.part}
                <small className="block truncate font-normal text-ink-3">
                  {part.own ? part.name : `${part.name}, as ${part.follows}`}
                </small>
              </span>
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
