import type { KeyboardEvent } from "react";
import type { PieceState } from "../../api/client";
import { arrowOf, stride, useBurst } from "../../components/nudging";
import { liveNow } from "../../live/store";
import { useDrag } from "../../live/useDrag";
import { Handle } from "../../ui/Drawing";
import { canvasPoint, ontoCanvas, ontoFace, type Point } from "../plane";

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
    function onKeyDown(event: KeyboardEvent) {
      const way = arrowOf(event);
      if (!way) return;
      event.preventDefault();
      const size = stride(event);
      put(at, [place[0] + way[0] * size, place[1] + way[1] * size], burst(), false);
    }
    return (
      <g key={at} data-part="placed-point">
        {point.fill && <circle cx={cx} cy={cy} r={10 * unit} fill={point.fill} className="stroke-sheet" strokeWidth={2 * unit} />}
        <Handle
          stage
          cx={cx}
          cy={cy}
          r={5 * unit}
          strokeWidth={2 * unit}
          tabIndex={0}
          role="button"
          aria-label={`${point.name}. Arrow keys move it.`}
          {...hold(at)}
          onKeyDown={onKeyDown}
        />
      </g>
    );
  });
}
