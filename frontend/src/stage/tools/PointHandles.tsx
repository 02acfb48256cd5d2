import type { KeyboardEvent } from "react";
import { CommandItems } from "../../commands/CommandItems";
import { runCommand } from "../../commands/registry";
import { arrowOf, stride, useBurst } from "../../components/nudging";
import type { LinePoint } from "../../components/pointActs";
import { deskNow } from "../../live/desk";
import { liveNow } from "../../live/store";
import { useDrag } from "../../live/useDrag";
import { Handle } from "../../ui/Drawing";
import { ContextMenu } from "../../ui/Menu";
import { canvasPoint, ontoCanvas, ontoFace, type Plane, type Point } from "../plane";

/** Lines of very many points (freehand) show every so many only. */
const MOST_SHOWN = 40;

interface Props {
  name: string;
  points: readonly LinePoint[];
  path: string;
  plane: Plane;
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
  const { pickPoint } = deskNow();
  const here = (at: number) => ({ path, at, curved: curved === true });
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
      if (!point) return;
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
    const act = { Delete: "remove-point", Enter: "smooth-point" }[event.key];
    if (act) {
      pickPoint(here(at));
      event.preventDefault();
      runCommand(act);
      return;
    }
    const way = arrowOf(event);
    if (!way) return;
    event.preventDefault();
    const size = stride(event);
    const point = points[at];
    if (point) put(at, { x: point.x + way[0] * size, y: point.y + way[1] * size }, burst(), false);
  }

  function addPoint(event: React.MouseEvent<SVGPathElement>) {
    const here = ontoFace(plane, canvasPoint(event));
    let [best, least] = [1, Number.POSITIVE_INFINITY];
    points.forEach((point, i) => {
      const before = points[i - 1];
      if (!before) return;
      const off = offSegment(here, [before.x, before.y], [point.x, point.y]);
      if (off < least) [best, least] = [i, off];
    });
    edit([{ op: "add", path: `${path}/${best}`, value: { x: Number(here[0].toFixed(1)), y: Number(here[1].toFixed(1)) } }]);
  }

  const line = points
    .map((point, i) => {
      const at = onCanvas(point.x, point.y);
      const last = points[i - 1];
      if (!last) return `M${at}`;
      const one = onCanvas(last.x + (last.out_x ?? 0), last.y + (last.out_y ?? 0));
      const two = onCanvas(point.x + (point.in_x ?? 0), point.y + (point.in_y ?? 0));
      return `C${one} ${two} ${at}`;
    })
    .join("");
  return (
    <g data-part="point-line" className="fill-none stroke-verdigris">
      <path d={line} strokeWidth={1.5 * unit} />
      {curved && (
        <path className="[pointer-events:stroke] stroke-transparent" d={line} strokeWidth={12 * unit} onDoubleClick={addPoint} />
      )}
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
                  <path d={`M${x} ${y}L${end}`} strokeWidth={unit} />
                  <Handle
                    stage
                    data-part="pulling"
                    cx={end[0]}
                    cy={end[1]}
                    r={4 * unit}
                    strokeWidth={1.5 * unit}
                    {...hold({ at, part })}
                  />
                </g>
              );
            })}
            <ContextMenu
              onOpen={() => pickPoint(here(at))}
              trigger={
                <Handle
                  stage
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
              }
            >
              <CommandItems ids={["smooth-point", "remove-point"]} />
            </ContextMenu>
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
