import { useLive } from "../../live/store";
import { AxisLine, Caption, Dimension, Drawing } from "../../ui/Drawing";

const [WIDTH, HEIGHT] = [286, 188];
const FACE_X = 66;

/** Where the camera stands, seen from above and from the side; the drawing's numbers are the server's. */
export function SightLines() {
  const view = useLive((live) => live.piece?.drawings.view);
  if (!view) return null;
  const parallel = view.projection !== "central";
  const reach = parallel ? 150 : Math.min(Math.max(view.distance / view.width, 0.35), 2.2) * 82;
  return (
    <Drawing
      width={WIDTH}
      height={HEIGHT}
      role="img"
      aria-label={
        parallel ? `Sight lines: ${view.projection}` : `Sight lines: camera ${view.distance} px away, ${view.angle}° across`
      }
    >
      <Caption x={12} y={18}>
        PLAN
      </Caption>
      <Caption x={12} y={106}>
        ELEVATION
      </Caption>
      <Sight y={56} half={40} turn={-view.turn[1]} reach={reach} parallel={parallel} />
      <Sight y={142} half={(40 * view.height) / view.width} turn={view.turn[0]} reach={reach} parallel={parallel} />
      {!parallel && (
        <Dimension
          line={`M${FACE_X} 178H${FACE_X + reach}M${FACE_X} 174v8M${FACE_X + reach} 174v8`}
          x={FACE_X + reach / 2}
          y={175}
          anchor="middle"
        >
          {`${view.distance} px`}
        </Dimension>
      )}
      <text className="font-[650]" x={WIDTH - 12} y={18} textAnchor="end">
        {parallel ? view.projection : `${view.angle}°`}
      </text>
    </Drawing>
  );
}

function Sight({ y, half, turn, reach, parallel }: { y: number; half: number; turn: number; reach: number; parallel: boolean }) {
  const eye = FACE_X + reach;
  const shape = parallel
    ? `M${FACE_X} ${y - half}H${eye}V${y + half}H${FACE_X}Z`
    : `M${FACE_X} ${y - half}L${eye} ${y}L${FACE_X} ${y + half}Z`;
  return (
    <g>
      <path d={shape} fill="var(--color-verdigris-wash)" stroke="var(--color-verdigris)" />
      <AxisLine d={`M${FACE_X - 30} ${y}H${eye + 14}`} />
      <line
        x1={FACE_X}
        x2={FACE_X}
        y1={y - half * 0.86}
        y2={y + half * 0.86}
        stroke="var(--color-ink)"
        strokeWidth="5"
        transform={`rotate(${turn} ${FACE_X} ${y})`}
      />
      <rect x={eye} y={y - 5} width="12" height="10" fill="var(--color-sheet)" stroke="var(--color-ink)" strokeWidth="1.5" />
    </g>
  );
}
