import { useState } from "react";
import type { Block, BlockDrawing, PieceState } from "../../api/client";
import { shown } from "../../fields/NumberField";
import { liveNow } from "../../live/store";
import { useDrag } from "../../live/useDrag";
import { Handle } from "../../ui/Drawing";
import { NumberBeside } from "../NumberBeside";
import { canvasPoint, cornersOf, ontoCanvas, ontoFace, type Point } from "../plane";
import type { Span } from "../snapping";
import { spanOf, unitsOf } from "../units";

const STALK_PX = 26;
const CORNER_PX = 14;
const RIGHT_ANGLES = 15;
const SNAP_DEGREES = 2;

interface Held {
  kind: "scale" | "turn";
  middle: Point;
  from: Point;
  turn: number;
}

interface Props {
  piece: PieceState;
  index: number;
  block: Block;
  drawing: BlockDrawing;
  box: Span;
  unit: number;
}

/** The corners of the open block scale it, the stalk above it turns it; its group goes with it. Exact numbers stand in the panel. */
export function FrameHandles({ piece, index, block, drawing, box, unit }: Props) {
  const { edit } = liveNow();
  const [kind, setKind] = useState<Held["kind"] | null>(null);
  const [a, b, c, d] = cornersOf(box, drawing.plane);
  const top = ontoCanvas(drawing.plane, [(box[0] + box[2]) / 2, box[3]]);
  const high = ontoCanvas(drawing.plane, [(box[0] + box[2]) / 2, box[3] + 1]);
  const length = Math.hypot(high[0] - top[0], high[1] - top[1]) || 1;
  const stalk: Point = [
    top[0] + ((high[0] - top[0]) / length) * STALK_PX * unit,
    top[1] + ((high[1] - top[1]) / length) * STALK_PX * unit,
  ];

  function middleOf(): Point {
    const { all } = unitsOf(piece, [index]);
    if (all.length < 2) return [block.place.x, block.place.y];
    const span = spanOf(piece, all) ?? box;
    return [(span[0] + span[2]) / 2, (span[1] + span[3]) / 2];
  }

  const handle = useDrag({
    threshold: 0,
    begin(event, what: Held["kind"]): Held {
      setKind(what);
      return { kind: what, middle: middleOf(), from: ontoFace(drawing.ground, canvasPoint(event)), turn: block.place.turn.z };
    },
    move(held, event, _, gesture) {
      const here = ontoFace(drawing.ground, canvasPoint(event));
      const off = ([x, y]: Point): Point => [x - held.middle[0], y - held.middle[1]];
      const [before, now] = [off(held.from), off(here)];
      const path = `/blocks/${index}`;
      const options = { gesture, moving: true };
      if (held.kind === "scale") {
        const by = Math.max(Math.hypot(...now) / Math.max(Math.hypot(...before), 1e-6), 0.02);
        edit([{ op: "scale", path, value: Number(by.toFixed(4)) }], options);
        return;
      }
      let degrees = ((Math.atan2(now[1], now[0]) - Math.atan2(before[1], before[0])) * 180) / Math.PI;
      const near = Math.round((held.turn + degrees) / RIGHT_ANGLES) * RIGHT_ANGLES;
      if (!event.altKey && Math.abs(held.turn + degrees - near) < SNAP_DEGREES) degrees = near - held.turn;
      edit([{ op: "turn", path, value: Number(degrees.toFixed(2)) }], options);
    },
    end: () => setKind(null),
  });

  return (
    <g>
      <path className="fill-none stroke-verdigris" d={`M${top}L${stalk}`} strokeWidth={1.5 * unit} />
      <Handle stage data-part="turning" cx={stalk[0]} cy={stalk[1]} r={6 * unit} strokeWidth={2 * unit} {...handle("turn")} />
      {(
        [
          [a, d, b],
          [b, a, c],
          [c, b, d],
          [d, c, a],
        ] as const
      ).map(([corner, before, after], i) => (
        <g
          key={i}
          data-part="corner"
          className="group/corner pointer-events-auto cursor-nwse-resize touch-none"
          {...handle("scale")}
        >
          <circle className="fill-transparent" cx={corner[0]} cy={corner[1]} r={11 * unit} />
          <path
            className="fill-none stroke-sheet group-hover/corner:stroke-verdigris"
            d={angleMark(corner, before, after, CORNER_PX * unit)}
            strokeWidth={4 * unit}
          />
        </g>
      ))}
      {kind && (
        <NumberBeside at={a} unit={unit}>
          {kind === "turn" ? `${shown(block.place.turn.z)}°` : sizeOf(block)}
        </NumberBeside>
      )}
    </g>
  );
}

/** A corner as a draughtsman marks it: two short legs along the sides. */
function angleMark(corner: Point, before: Point, after: Point, reach: number): string {
  const leg = (to: Point): Point => {
    const [dx, dy] = [to[0] - corner[0], to[1] - corner[1]];
    const along = reach / Math.max(Math.hypot(dx, dy), 1e-6);
    return [corner[0] + dx * along, corner[1] + dy * along];
  };
  return `M${leg(before)}L${corner}L${leg(after)}`;
}

function sizeOf(block: Block): string {
  if (block.kind === "lettering") return `${shown(block.size)} px`;
  if (block.kind === "shape") return `${shown(block.width)} × ${shown(block.height)} px`;
  return block.kind === "mark" ? `${shown(block.scale)} %` : `${shown(block.width)} px wide`;
}
