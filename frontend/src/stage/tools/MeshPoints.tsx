import type { KeyboardEvent } from "react";
import type { Mesh, PieceState } from "../../api/client";
import { arrowOf, stride, useBurst } from "../../components/nudging";
import { shownColour, usePaints } from "../../live/paints";
import { liveNow } from "../../live/store";
import { useDrag } from "../../live/useDrag";
import { Handle } from "../../ui/Drawing";
import { canvasPoint, ontoCanvas, ontoFace, type Point } from "../plane";

interface Props {
  mesh: Mesh;
  path: string;
  drawing: PieceState["drawings"]["backdrop"];
  unit: number;
}

/** The points of a mesh of colours on the stage: drag one, or nudge it with the arrow keys. */
export function MeshPoints({ mesh, path, drawing, unit }: Props) {
  const { edit } = liveNow();
  const burst = useBurst();
  const paints = usePaints();
  const { plane, box } = drawing;
  const [left, bottom, right, top] = box;

  function put(at: number, [x, y]: Point, gesture: string, moving: boolean) {
    const shares = { x: (100 * (x - left)) / (right - left), y: (100 * (y - bottom)) / (top - bottom) };
    edit(
      Object.entries(shares).map(([key, value]) => ({
        op: "replace" as const,
        path: `${path}/points/${at}/${key}`,
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

  return mesh.points.map((point, at) => {
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
      <g key={at} data-part="mesh-point">
        <circle
          cx={cx}
          cy={cy}
          r={10 * unit}
          fill={shownColour(point.colour, paints)}
          className="stroke-sheet"
          strokeWidth={2 * unit}
        />
        <Handle
          stage
          cx={cx}
          cy={cy}
          r={5 * unit}
          strokeWidth={2 * unit}
          tabIndex={0}
          role="button"
          aria-label={`Point ${at + 1} of the mesh. Arrow keys move it.`}
          {...hold(at)}
          onKeyDown={onKeyDown}
        />
      </g>
    );
  });
}
