import { useRef, useState } from "react";
import { freshId } from "../../components/freshId";
import { deskNow, type Line, useDesk } from "../../live/desk";
import { liveNow, useBlock, useDocument } from "../../live/store";
import { Handle } from "../../ui/Drawing";
import { ontoCanvas, ontoFace, type Plane, type Point } from "../plane";
import type { StageTool } from "./StageTool";

/** Points of a freehand line are at least this far apart, in canvas px. */
const FREEHAND_STEP = 4;
const FREEHAND_SMOOTHING = 8;
const MOST_POINTS = 500;

interface Placed {
  at: Point;
  /** The handle pulled out of the point, as an offset on the face. */
  out: Point;
}

const round = (value: number) => Number(value.toFixed(1));

/**
 * Draws a line on the face (`plane`): click by click (a drag pulls handles), or in one go. Enter ends it, Backspace takes
 * a point back. `unit` is px of the canvas per px of a mark's size.
 */
export function useDrawing(line: Line, plane: Plane, unit: number): StageTool {
  const { blocks } = useDocument();
  const { block, path } = useBlock();
  const edit = liveNow().edit;
  const tracing = useDesk((desk) => desk.tracing);
  const { take, openBlock } = deskNow();
  const [points, setPoints] = useState<Placed[]>([]);
  // A quick hand is ahead of the screen: the next event must find what the last one put down, drawn or not.
  const newest = useRef<Placed[]>([]);
  const put = (drawn: Placed[]) => {
    newest.current = drawn;
    setPoints(drawn);
  };

  function finish(drawn: Placed[]) {
    take(null);
    if (drawn.length < 2) return;
    if (line === "kerf") {
      const value = { points: drawn.map(({ at }) => ({ x: round(at[0]), y: round(at[1]) })) };
      edit([{ op: "add", path: `${path}/form/kerfs/-`, value }]);
      return;
    }
    const stroke = {
      smoothing: line === "freehand" ? FREEHAND_SMOOTHING : 0,
      points: drawn.map(({ at, out }) => ({
        x: round(at[0]),
        y: round(at[1]),
        out_x: round(out[0]),
        out_y: round(out[1]),
        in_x: round(-out[0]),
        in_y: round(-out[1]),
      })),
    };
    if (line === "along") {
      const value = { ...(block.kind === "lettering" && block.along), kind: "curve", curve: stroke };
      edit([{ op: "replace", path: `${path}/along`, value }]);
    } else if (block.kind === "strokes") {
      edit([{ op: "add", path: `${path}/strokes/-`, value: stroke }]);
    } else {
      // A new block of strokes stands where the open one does, in the plane of its face.
      const value = { kind: "strokes", id: freshId("strokes", blocks), strokes: [stroke], place: block.place };
      const guide = { op: "replace" as const, path: `${path}/guide`, value: true };
      edit([{ op: "add", path: "/blocks/-", value }, ...(tracing ? [guide] : [])]);
      openBlock(blocks.length);
    }
  }

  return {
    label: "Sheet to draw on",
    marks: <DrawnLine points={points} plane={plane} unit={unit} handles={line !== "freehand"} />,
    press(at) {
      const begun: Placed = { at: ontoFace(plane, at), out: [0, 0] };
      put(line === "freehand" ? [begun] : [...newest.current, begun]);
    },
    drag(at) {
      const here = ontoFace(plane, at);
      const last = newest.current.at(-1);
      if (!last) return;
      const off: Point = [here[0] - last.at[0], here[1] - last.at[1]];
      if (Math.hypot(...off) < FREEHAND_STEP) return;
      if (line === "freehand") {
        if (newest.current.length < MOST_POINTS) put([...newest.current, { at: here, out: [0, 0] }]);
      } else if (line !== "kerf") put([...newest.current.slice(0, -1), { at: last.at, out: off }]);
    },
    release: () => line === "freehand" && finish(newest.current),
    pressTwice: () => finish(newest.current.slice(0, -1)),
    key(event) {
      const back = event.key === "Backspace" || ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z");
      if (event.key === "Enter") finish(newest.current);
      else if (back) put(newest.current.slice(0, -1));
      return event.key === "Enter" || back;
    },
    cancel: () => take(null),
  };
}

function DrawnLine({
  points,
  plane,
  unit,
  handles,
}: {
  points: readonly Placed[];
  plane: Plane;
  unit: number;
  handles: boolean;
}) {
  const placed = points.map(({ at, out }) => ({
    at: ontoCanvas(plane, at),
    out: ontoCanvas(plane, [at[0] + out[0], at[1] + out[1]]),
    back: ontoCanvas(plane, [at[0] - out[0], at[1] - out[1]]),
  }));
  const line = placed.map(({ at, back }, i) => (i ? `C${placed[i - 1]?.out} ${back} ${at}` : `M${at}`)).join("");
  return (
    <g data-part="drawn-line">
      <path className="fill-none stroke-verdigris" d={line} strokeWidth={2 * unit} />
      {handles && placed.map(({ at }, i) => <Handle stage key={i} cx={at[0]} cy={at[1]} r={5 * unit} strokeWidth={2 * unit} />)}
    </g>
  );
}
