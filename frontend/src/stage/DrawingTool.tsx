import { type PointerEvent, useEffect, useRef, useState } from "react";
import { freshId } from "../components/freshId";
import { deskNow, type Line, useDesk } from "../live/desk";
import { liveNow, useBlock, useDocument } from "../live/store";
import { ontoCanvas, ontoFace, type Point } from "./plane";

/** Points of a freehand line are at least this far apart, in canvas px. */
const FREEHAND_STEP = 4;
const FREEHAND_SMOOTHING = 8;
const MOST_POINTS = 500;

interface Props {
  tool: Line;
  plane: readonly number[];
  width: number;
  height: number;
}

interface Placed {
  at: Point;
  /** The handle pulled out of the point, as an offset on the face. */
  out: Point;
}

const round = (value: number) => Number(value.toFixed(1));

/** Draws a line on the face: click by click (a drag pulls handles), or in one go. Enter ends it, Backspace takes a point back. */
export function DrawingTool({ tool, plane, width, height }: Props) {
  const { blocks } = useDocument();
  const { block, path } = useBlock();
  const edit = liveNow().edit;
  const tracing = useDesk((desk) => desk.tracing);
  const { take, openBlock } = deskNow();
  const [points, setPoints] = useState<Placed[]>([]);
  // A quick hand is ahead of the screen: the next event must find what the last one put down, drawn or not.
  const newest = useRef<Placed[]>([]);
  const put = (line: Placed[]) => {
    newest.current = line;
    setPoints(line);
  };
  const down = useRef<Point | null>(null);
  // A new block of strokes stands in the middle of the canvas, in the plane of the open block's face.
  const face = (event: PointerEvent<SVGRectElement>): [number, number] => {
    const box = event.currentTarget.getBoundingClientRect();
    return ontoFace(plane, [((event.clientX - box.left) / box.width) * width, ((event.clientY - box.top) / box.height) * height]);
  };

  function finish(drawn: Placed[]) {
    take(null);
    if (drawn.length < 2) return;
    if (tool === "kerf") {
      edit([
        {
          op: "add",
          path: `${path}/form/kerfs/-`,
          value: { points: drawn.map(({ at }) => ({ x: round(at[0]), y: round(at[1]) })) },
        },
      ]);
      return;
    }
    const stroke = {
      smoothing: tool === "freehand" ? FREEHAND_SMOOTHING : 0,
      points: drawn.map(({ at, out }) => ({
        x: round(at[0]),
        y: round(at[1]),
        out_x: round(out[0]),
        out_y: round(out[1]),
        in_x: round(-out[0]),
        in_y: round(-out[1]),
      })),
    };
    if (tool === "along") {
      edit([
        {
          op: "replace",
          path: `${path}/along`,
          value: { ...(block.kind === "lettering" && block.along), kind: "curve", curve: stroke },
        },
      ]);
      return;
    }
    if (block.kind === "strokes") {
      edit([{ op: "add", path: `${path}/strokes/-`, value: stroke }]);
      return;
    }
    const value = { kind: "strokes", id: freshId("strokes", blocks), strokes: [stroke], place: block.place };
    const guide = { op: "replace" as const, path: `${path}/guide`, value: true };
    edit([{ op: "add", path: "/blocks/-", value }, ...(tracing ? [guide] : [])]);
    openBlock(blocks.length);
  }

  useEffect(() => {
    function onKeyDown(event: KeyboardEvent) {
      const back = event.key === "Backspace" || ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z");
      if (event.key === "Escape") take(null);
      else if (event.key === "Enter") finish(newest.current);
      else if (back) put(newest.current.slice(0, -1));
      else return;
      event.preventDefault();
      event.stopImmediatePropagation();
    }
    // Ahead of the screen's own keys: while a line is drawn, stepping back takes back a point of it.
    window.addEventListener("keydown", onKeyDown, true);
    return () => window.removeEventListener("keydown", onKeyDown, true);
  });

  function onPointerDown(event: PointerEvent<SVGRectElement>) {
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    down.current = face(event);
    const begun: Placed = { at: down.current, out: [0, 0] };
    put(tool === "freehand" ? [begun] : [...newest.current, begun]);
  }

  function onPointerMove(event: PointerEvent<SVGRectElement>) {
    const from = down.current;
    if (!from) return;
    const here = face(event);
    const line = newest.current;
    const last = line[line.length - 1];
    if (tool === "freehand") {
      if (line.length < MOST_POINTS && Math.hypot(here[0] - last.at[0], here[1] - last.at[1]) >= FREEHAND_STEP)
        put([...line, { at: here, out: [0, 0] }]);
    } else if (tool === "pen" || tool === "along") {
      const out: Point = [here[0] - from[0], here[1] - from[1]];
      if (Math.hypot(...out) > FREEHAND_STEP) put([...line.slice(0, -1), { at: from, out }]);
    }
  }

  function onPointerUp() {
    down.current = null;
    if (tool === "freehand") finish(newest.current);
  }

  const placed = points.map(({ at, out }) => ({
    at: ontoCanvas(plane, at),
    out: ontoCanvas(plane, [at[0] + out[0], at[1] + out[1]]),
    back: ontoCanvas(plane, [at[0] - out[0], at[1] - out[1]]),
  }));
  const line = placed.map(({ at, back }, i) => (i ? `C${placed[i - 1].out} ${back} ${at}` : `M${at}`)).join("");
  return (
    <g className="point-line">
      <rect
        className="drawing-sheet"
        width={width}
        height={height}
        onPointerDown={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerUp={onPointerUp}
        onPointerCancel={() => {
          down.current = null;
        }}
        onDoubleClick={() => finish(newest.current.slice(0, -1))}
      />
      <path d={line} strokeWidth={width / 464} />
      {tool !== "freehand" &&
        placed.map(({ at }, i) => (
          <circle key={i} className="handle" cx={at[0]} cy={at[1]} r={width / 180} strokeWidth={width / 464} />
        ))}
    </g>
  );
}
