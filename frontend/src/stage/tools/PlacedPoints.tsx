import type { PieceState } from "../../api/client";
import { useBurst } from "../../components/nudging";
import { liveNow } from "../../live/store";
import { useDrag } from "../../live/useDrag";
import { canvasPoint, ontoCanvas, ontoFace, type Point } from "../plane";
import { StageHandle } from "./StageHandle";

interface Props {
  /** Points in % of the canvas, from its left and from its bottom, with what each is called. */
  points: readonly { x: number; y: number; name: string; fill?: string }[];
  /** JSON Pointer of the list of points. */
  path: string;
  drawing: PieceState["drawings"]["backdrop"];
  unit: number;
}

/** Points on the stage that lie in shares of the canvas: drag one, or nudge it with the arrow keys. */
export function PlacedPoints({ points, path, drawing, unit }: Props) {
  const { edit } = liveNow();
  const burst = useBurst();
  const { plane, box } = drawing;
  const [left, bottom, right, top] = box;

  function put(at: number, [x, y]: Point, gesture: string, moving: boolean) {
    const shares = { x: (100 * (x - left)) / (right - left), y: (100 * (y - bottom)) / (top - bottom) };
    edit(
      Object.entries(shares).map(([key, value]) => ({
        op: "replace" as const,
        path: `${path}/${at}/${key}`,
        value: Number(Math.min(Math.max(value, -100), 200).toFixed(2)),
      })),
      { gesture, moving },
    );
  }

  const hold = useDrag({
    threshold: 0,
    begin: (_, at: number) => at,
    move: (at, event, _, gesture) => put(at, ontoFace(plane, canvasPoint(event)), gesture, true),
  });

  return points.map((point, at) => {
    const place = [left + ((right - left) * point.x) / 100, bottom + ((top - bottom) * point.y) / 100] as const;
    const [cx, cy] = ontoCanvas(plane, place);
    return (
      <g key={at} data-part="placed-point">
        {point.fill && <circle cx={cx} cy={cy} r={10 * unit} fill={point.fill} className="stroke-sheet" strokeWidth={2 * unit} />}
        <StageHandle
          at={[cx, cy]}
          unit={unit}
          name={point.name}
          {...hold(at)}
          onNudge={([x, y]) => put(at, [place[0] + x, place[1] + y], burst(), false)}
        />
      </g>
    );
  });
}
