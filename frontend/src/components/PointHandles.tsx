import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import { newGesture, useLive } from "../live/store";
import { stride } from "./nudging";
import { ontoCanvas, ontoFace } from "./plane";

/** Lines of very many points (freehand) show every so many only. */
const MOST_SHOWN = 40;

interface Props {
  name: string;
  points: readonly { x: number; y: number }[];
  path: string;
  plane: readonly number[];
  /** Canvas px per px of a handle's size. */
  unit: number;
}

/** The points of a line on the stage: drag one, or nudge it with the arrow keys. */
export function PointHandles({ name, points, path, plane, unit }: Props) {
  const { edit, rest } = useLive.getState();
  const drag = useRef<{ at: number; gesture: string } | null>(null);
  const placed = points.map(({ x, y }) => ontoCanvas(plane, [x, y]));
  const every = Math.ceil(points.length / MOST_SHOWN);

  function put(at: number, x: number, y: number, gesture: string, moving: boolean) {
    const round = (value: number) => Number(value.toFixed(1));
    edit(
      [
        { op: "replace", path: `${path}/${at}/x`, value: round(x) },
        { op: "replace", path: `${path}/${at}/y`, value: round(y) },
      ],
      { gesture, moving },
    );
  }

  function onPointerMove(event: PointerEvent<SVGCircleElement>) {
    const held = drag.current;
    if (!held) return;
    const frame = event.currentTarget.ownerSVGElement as SVGSVGElement;
    const box = frame.getBoundingClientRect();
    const view = frame.viewBox.baseVal;
    const at: [number, number] = [
      ((event.clientX - box.left) / box.width) * view.width,
      ((event.clientY - box.top) / box.height) * view.height,
    ];
    put(held.at, ...ontoFace(plane, at), held.gesture, true);
  }

  function onKeyDown(event: KeyboardEvent, at: number) {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!way) return;
    event.preventDefault();
    const size = stride(event);
    put(at, points[at].x + way[0] * size, points[at].y + way[1] * size, newGesture(), false);
  }

  return (
    <g className="point-line">
      <path d={placed.map(([x, y], i) => `${i ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("")} strokeWidth={1.5 * unit} />
      {placed.map(([x, y], at) =>
        at % every && at !== points.length - 1 ? null : (
          <circle
            key={at}
            className="handle"
            cx={x}
            cy={y}
            r={6 * unit}
            strokeWidth={2 * unit}
            tabIndex={0}
            role="button"
            aria-label={`${name}, point ${at + 1}. Arrow keys move it.`}
            onPointerDown={(event) => {
              event.stopPropagation();
              event.currentTarget.setPointerCapture(event.pointerId);
              drag.current = { at, gesture: newGesture() };
            }}
            onPointerMove={onPointerMove}
            onPointerUp={() => {
              if (drag.current) rest();
              drag.current = null;
            }}
            onKeyDown={(event) => onKeyDown(event, at)}
          />
        ),
      )}
    </g>
  );
}
