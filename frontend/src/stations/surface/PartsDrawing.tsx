import { Coupon } from "../../components/Drawn";
import { useBlock, useLive } from "../../live/store";
import type { PartState } from "./SurfaceStation";

const [WIDTH, ROW] = [286, 33];
const DRAWN = { left: 10, width: 88, top: 10 };
const LIST_X = 126;

interface Props {
  parts: readonly PartState[];
  picked: string;
  onPick: (part: string) => void;
}

/** The section as the list of parts: a leader from each to its material. */
export function PartsDrawing({ parts, picked, onPick }: Props) {
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
    <div className="drawing parts-drawing" style={{ height }}>
      {section && (
        <svg viewBox={`0 0 ${WIDTH} ${height}`} role="img" aria-label="Section with its parts">
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
              <g key={part.part} className={part.part === picked ? "leader picked" : "leader"}>
                <path d={`M${x} ${y}L${bend} ${to}H${LIST_X - 4}`} />
                <circle cx={x} cy={y} r={2.2} />
              </g>
            );
          })}
        </svg>
      )}
      <ul aria-label="Parts" style={{ left: `${(LIST_X / WIDTH) * 100}%` }}>
        {parts.map((part) => (
          <li key={part.part}>
            <button type="button" aria-pressed={part.part === picked} onClick={() => onPick(part.part)}>
              {part.material ? <Coupon material={part.material} /> : <span className="coupon" />}
              <span>
                {part.part}
                <small>{part.own ? part.name : `${part.name}, as ${part.follows}`}</small>
              </span>
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
