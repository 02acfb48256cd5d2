import type { KeyboardEvent } from "react";
import { stride, useBurst } from "../components/nudging";
import { liveNow, newGesture } from "../live/store";
import { useDrag } from "../live/useDrag";
import { canvasPoint, ontoCanvas, ontoFace, type Point } from "./plane";

/** Lines of very many points (freehand) show every so many only. */
const MOST_SHOWN = 40;
/** Handles pulled out of a point that has none reach so far to its neighbours. */
const REACH = 0.3;

/** A point of a line; those of drawn strokes have handles, as offsets. */
export interface LinePoint {
  x: number;
  y: number;
  in_x?: number;
  in_y?: number;
  out_x?: number;
  out_y?: number;
}

interface Props {
  name: string;
  points: readonly LinePoint[];
  path: string;
  plane: readonly number[];
  /** Canvas px per px of a handle's size. */
  unit: number;
  /** Whether the points have handles to pull, and the line may gain and lose points. */
  curved?: boolean;
}

interface Held {
  at: number;
  part: "point" | "in" | "out";
}

/**
 * The points of a line on the stage: drag one, or nudge it with the arrow keys. On a curve, Delete removes a point, Enter
 * makes it smooth or a corner, a double-click on the line adds one; its handles stay in line unless Alt is held.
 */
export function PointHandles({ name, points, path, plane, unit, curved }: Props) {
  const { edit } = liveNow();
  const burst = useBurst();
  const onCanvas = (x: number, y: number) => ontoCanvas(plane, [x, y]);
  const every = curved ? Math.ceil(points.length / MOST_SHOWN) : 1;

  function put(at: number, changed: Partial<LinePoint>, gesture: string, moving: boolean) {
    edit(
      Object.entries(changed).map(([key, value]) => ({
        op: "replace" as const,
        path: `${path}/${at}/${key}`,
        value: Number(value.toFixed(1)),
      })),
      { gesture, moving },
    );
  }

  const hold = useDrag({
    threshold: 0,
    begin: (_, held: Held) => held,
    move(held, event, _, gesture) {
      const [x, y] = ontoFace(plane, canvasPoint(event));
      if (held.part === "point") {
        put(held.at, { x, y }, gesture, true);
        return;
      }
      const point = points[held.at];
      const [dx, dy] = [x - point.x, y - point.y];
      const own = held.part === "in" ? { in_x: dx, in_y: dy } : { out_x: dx, out_y: dy };
      if (event.altKey) {
        put(held.at, own, gesture, true);
        return;
      }
      // The other handle turns with it and keeps its length.
      const [ox, oy] = held.part === "in" ? [point.out_x ?? 0, point.out_y ?? 0] : [point.in_x ?? 0, point.in_y ?? 0];
      const along = -Math.hypot(ox, oy) / Math.max(Math.hypot(dx, dy), 1e-6);
      const other = held.part === "in" ? { out_x: dx * along, out_y: dy * along } : { in_x: dx * along, in_y: dy * along };
      put(held.at, { ...own, ...other }, gesture, true);
    },
  });

  function onKeyDown(event: KeyboardEvent, at: number) {
    if (curved && event.key === "Delete" && points.length > 2) {
      event.preventDefault();
      edit([{ op: "remove", path: `${path}/${at}` }]);
      return;
    }
    if (curved && event.key === "Enter") {
      event.preventDefault();
      put(at, softened(at), newGesture(), false);
      return;
    }
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!way) return;
    event.preventDefault();
    const size = stride(event);
    put(at, { x: points[at].x + way[0] * size, y: points[at].y + way[1] * size }, burst(), false);
  }

  /** A corner gets handles along its neighbours; a smooth point loses its own. */
  function softened(at: number): Partial<LinePoint> {
    const point = points[at];
    if (point.out_x || point.out_y || point.in_x || point.in_y) return { in_x: 0, in_y: 0, out_x: 0, out_y: 0 };
    const [before, after] = [points[at - 1] ?? point, points[at + 1] ?? point];
    const [dx, dy] = [(after.x - before.x) * REACH, (after.y - before.y) * REACH];
    return { in_x: -dx, in_y: -dy, out_x: dx, out_y: dy };
  }

  function addPoint(event: React.MouseEvent<SVGPathElement>) {
    const here = ontoFace(plane, canvasPoint(event));
    let [best, least] = [1, Number.POSITIVE_INFINITY];
    for (let i = 1; i < points.length; i++) {
      const off = offSegment(here, [points[i - 1].x, points[i - 1].y], [points[i].x, points[i].y]);
      if (off < least) [best, least] = [i, off];
    }
    edit([{ op: "add", path: `${path}/${best}`, value: { x: Number(here[0].toFixed(1)), y: Number(here[1].toFixed(1)) } }]);
  }

  const line = points
    .map((point, i) => {
      const at = onCanvas(point.x, point.y);
      if (!i) return `M${at}`;
      const last = points[i - 1];
      const one = onCanvas(last.x + (last.out_x ?? 0), last.y + (last.out_y ?? 0));
      const two = onCanvas(point.x + (point.in_x ?? 0), point.y + (point.in_y ?? 0));
      return `C${one} ${two} ${at}`;
    })
    .join("");
  return (
    <g className="point-line">
      <path d={line} strokeWidth={1.5 * unit} />
      {curved && <path className="point-line-reach" d={line} strokeWidth={12 * unit} onDoubleClick={addPoint} />}
      {points.map((point, at) => {
        if (at % every && at !== points.length - 1) return null;
        const [x, y] = onCanvas(point.x, point.y);
        const sides = (["in", "out"] as const)
          .map((part) => ({ part, dx: point[`${part}_x`] ?? 0, dy: point[`${part}_y`] ?? 0 }))
          .filter(({ dx, dy }) => curved && (dx || dy));
        return (
          <g key={at}>
            {sides.map(({ part, dx, dy }) => {
              const end = onCanvas(point.x + dx, point.y + dy);
              return (
                <g key={part}>
                  <path className="stalk" d={`M${x} ${y}L${end}`} strokeWidth={unit} />
                  <circle
                    className="handle pulling"
                    cx={end[0]}
                    cy={end[1]}
                    r={4 * unit}
                    strokeWidth={1.5 * unit}
                    {...hold({ at, part })}
                  />
                </g>
              );
            })}
            <circle
              className="handle"
              cx={x}
              cy={y}
              r={6 * unit}
              strokeWidth={2 * unit}
              tabIndex={0}
              role="button"
              aria-label={`${name}, point ${at + 1}. Arrow keys move it${curved ? ", Delete removes it, Enter makes it smooth or a corner" : ""}.`}
              {...hold({ at, part: "point" })}
              onKeyDown={(event) => onKeyDown(event, at)}
            />
          </g>
        );
      })}
    </g>
  );
}

function offSegment([x, y]: Point, [ax, ay]: Point, [bx, by]: Point): number {
  const [dx, dy] = [bx - ax, by - ay];
  const t = Math.min(Math.max(((x - ax) * dx + (y - ay) * dy) / Math.max(dx * dx + dy * dy, 1e-9), 0), 1);
  return Math.hypot(x - ax - t * dx, y - ay - t * dy);
}
