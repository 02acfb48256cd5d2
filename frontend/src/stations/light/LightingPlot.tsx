import type { PieceState } from "../../api/client";
import { useLive } from "../../live/store";

type Place = PieceState["drawings"]["lamps"][number];

const [WIDTH, HEIGHT] = [286, 182];
const REACH = 58;

/** Where the lamps stand: face on (bearing) at the left, from the side (elevation) at the right. */
export function LightingPlot({ picked, onPick }: { picked?: string; onPick: (id: string) => void }) {
  const lamps = useLive((live) => live.piece?.drawings.lamps ?? []);
  const furthest = Math.max(...lamps.map((lamp) => lamp.distance), 1);
  const share = (lamp: Place) => (lamp.kind === "sun" ? 1 : 0.45 + (0.55 * lamp.distance) / furthest);
  return (
    <svg className="drawing" viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label="Lighting plot">
      <text className="caption" x={12} y={18}>
        FACE ON
      </text>
      <text className="caption" x={WIDTH - 12} y={18} textAnchor="end">
        ELEVATION
      </text>
      <circle cx={76} cy={98} r={REACH} fill="none" stroke="var(--rule)" />
      <path className="axis-line" d={`M${76 - REACH - 8} 98H${76 + REACH + 8}M76 ${98 - REACH - 8}V${98 + REACH + 8}`} />
      <rect x={56} y={91} width={40} height={14} fill="var(--ink)" />
      <path className="axis-line" d={`M188 ${98 - REACH - 8}V${98 + REACH + 8}M180 98h90`} />
      <rect x={184} y={80} width={6} height={36} fill="var(--ink)" />
      <path d={`M180 ${98 - REACH}V${98 + REACH}`} stroke="var(--ink-3)" strokeDasharray="2 3" />
      {lamps.map((lamp, index) => {
        const [dx, dy, dz] = lamp.direction;
        const far = share(lamp) * REACH;
        return (
          <g key={lamp.id} opacity={lamp.on ? 1 : 0.4}>
            <Mark
              x={76 + dx * far}
              y={98 - dy * far}
              from={[76, 98]}
              number={index + 1}
              picked={lamp.id === picked}
              onPick={() => onPick(lamp.id)}
            />
            <Mark
              x={190 + Math.max(dz * far * 1.25, -12)}
              y={98 - dy * far}
              from={[190, 98]}
              number={index + 1}
              picked={lamp.id === picked}
              onPick={() => onPick(lamp.id)}
            />
          </g>
        );
      })}
    </svg>
  );
}

interface MarkProps {
  x: number;
  y: number;
  from: [number, number];
  number: number;
  picked: boolean;
  onPick: () => void;
}

function Mark({ x, y, from, number, picked, onPick }: MarkProps) {
  const ink = picked ? "var(--verdigris)" : "var(--ink)";
  return (
    <g onClick={onPick} className="lamp-mark">
      <line x1={from[0]} y1={from[1]} x2={x} y2={y} stroke={ink} strokeDasharray={picked ? undefined : "3 3"} />
      <circle cx={x} cy={y} r={9} fill={picked ? ink : "var(--sheet)"} stroke={ink} strokeWidth="1.5" />
      <text x={x} y={y + 4} textAnchor="middle" fill={picked ? "var(--sheet)" : ink}>
        {number}
      </text>
    </g>
  );
}
