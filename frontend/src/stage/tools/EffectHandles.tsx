import type { BlockDrawing, Effect, PieceState } from "../../api/client";
import { useBurst } from "../../components/nudging";
import { useDesk } from "../../live/desk";
import { liveNow } from "../../live/store";
import { useDrag } from "../../live/useDrag";
import { canvasPoint, ontoCanvas, ontoFace, type Plane, type Point } from "../plane";
import { GradientLines } from "./GradientLines";
import { PlacedPoints } from "./PlacedPoints";
import { StageHandle } from "./StageHandle";

/** What can be moved on the stage of the picked effect: where a vignette lies, how far down gloss reaches, spots of stars, layers of a wash. */
export function EffectHandles({ piece, unit }: { piece: PieceState; unit: number }) {
  const { finish, canvas } = piece.document;
  const picked = useDesk((desk) => desk.effect);
  const block = useDesk((desk) => desk.block);
  const at = Math.min(picked, finish.length - 1);
  const effect = finish[at];
  const path = `/finish/${at}`;
  const { backdrop } = piece.drawings;
  switch (effect?.kind) {
    case "vignette":
      return <VignetteHandles vignette={effect} path={path} width={canvas.width} height={canvas.height} unit={unit} />;
    case "gloss":
      return <GlossHandle gloss={effect} path={path} drawing={piece.drawings.blocks[block]} unit={unit} />;
    case "glints":
      return (
        <PlacedPoints
          points={effect.spots.map((spot, number) => ({ ...spot, name: `Star ${number + 1}` }))}
          path={`${path}/spots`}
          drawing={backdrop}
          unit={unit}
        />
      );
    case "wash": {
      const own = backdrop.washes.filter((line) => line.path.startsWith(`${path}/`));
      return <GradientLines drawing={{ plane: backdrop.plane, gradients: own }} unit={unit} />;
    }
    default:
      return null;
  }
}

interface GlossProps {
  gloss: Extract<Effect, { kind: "gloss" }>;
  path: string;
  drawing: BlockDrawing | undefined;
  unit: number;
}

/** How far down a band of gloss reaches, on the first letter of the open block or on all of it. */
function GlossHandle({ gloss, path, drawing, unit }: GlossProps) {
  const { edit } = liveNow();
  const burst = useBurst();
  const first = drawing?.letters.find((letter) => letter.box)?.box;
  const box = gloss.over === "letter" && first ? first : drawing?.box;

  function put(y: number, gesture: string, moving: boolean) {
    if (!box) return;
    const height = Math.min(Math.max((100 * (box[3] - y)) / (box[3] - box[1]), 0), 100);
    edit([{ op: "replace", path: `${path}/height`, value: Number(height.toFixed(1)) }], { gesture, moving });
  }

  const hold = useDrag({
    threshold: 0,
    begin: (_, plane: Plane) => plane,
    move: (plane, event, _, gesture) => put(ontoFace(plane, canvasPoint(event))[1], gesture, true),
  });

  if (!drawing || !box) return null;
  const y = box[3] - ((box[3] - box[1]) * gloss.height) / 100;
  const [left, right] = [ontoCanvas(drawing.plane, [box[0], y]), ontoCanvas(drawing.plane, [box[2], y])];
  return (
    <g data-part="gloss-edge" className="fill-none stroke-verdigris">
      <path className="stroke-sheet" d={`M${left}L${right}`} strokeWidth={3.5 * unit} />
      <path d={`M${left}L${right}`} strokeWidth={1.5 * unit} />
      <StageHandle
        at={[(left[0] + right[0]) / 2, (left[1] + right[1]) / 2]}
        unit={unit}
        name="Edge of the gloss"
        {...hold(drawing.plane)}
        onNudge={([, up]) => put(y + up, burst(), false)}
      />
    </g>
  );
}

interface VignetteProps {
  vignette: Extract<Effect, { kind: "vignette" }>;
  path: string;
  width: number;
  height: number;
  unit: number;
}

/** The ellipse within which a vignette changes nothing: its middle and its right end. */
function VignetteHandles({ vignette, path, width, height, unit }: VignetteProps) {
  const { edit } = liveNow();
  const burst = useBurst();
  const half = [width / 2, height / 2] as const;
  const middle = [half[0] * (1 + vignette.x / 100), half[1] * (1 - vignette.y / 100)] as const;
  const reach = [(half[0] * vignette.radius) / 100, (half[1] * vignette.radius) / 100] as const;
  const ends = { middle, end: [middle[0] + reach[0], middle[1]] } as const;
  const names = { middle: "Middle of the vignette", end: "Where the vignette begins" } as const;
  type End = keyof typeof ends;

  function put(end: End, [x, y]: Point, gesture: string, moving: boolean) {
    const values =
      end === "middle"
        ? { x: 100 * (x / half[0] - 1), y: 100 * (1 - y / half[1]) }
        : { radius: Math.max((100 * (x - middle[0])) / half[0], 0) };
    edit(
      Object.entries(values).map(([key, value]) => ({
        op: "replace" as const,
        path: `${path}/${key}`,
        value: Number(Math.min(Math.max(value, -100), 1000).toFixed(1)),
      })),
      { gesture, moving },
    );
  }

  const hold = useDrag({
    threshold: 0,
    begin: (_, end: End) => end,
    move: (end, event, _, gesture) => put(end, canvasPoint(event), gesture, true),
  });

  return (
    <g data-part="vignette" className="fill-none stroke-verdigris">
      <ellipse className="stroke-sheet" cx={middle[0]} cy={middle[1]} rx={reach[0]} ry={reach[1]} strokeWidth={3.5 * unit} />
      <ellipse cx={middle[0]} cy={middle[1]} rx={reach[0]} ry={reach[1]} strokeWidth={1.5 * unit} />
      {(Object.keys(ends) as End[]).map((end) => (
        <StageHandle
          key={end}
          at={ends[end]}
          unit={unit}
          name={names[end]}
          {...hold(end)}
          onNudge={([x, up]) => put(end, [ends[end][0] + x, ends[end][1] - up], burst(), false)}
        />
      ))}
    </g>
  );
}
