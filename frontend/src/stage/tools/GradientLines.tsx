import type { PieceState } from "../../api/client";
import { useBurst } from "../../components/nudging";
import { liveNow } from "../../live/store";
import { useDrag } from "../../live/useDrag";
import { canvasPoint, ontoCanvas, ontoFace, type Point } from "../plane";
import { StageHandle } from "./StageHandle";

type Drawn = Pick<PieceState["drawings"]["backdrop"], "plane" | "gradients">;
type Line = Drawn["gradients"][number];

interface Held {
  line: Line;
  end: 0 | 1;
}

/** What the two handles of a line are for. */
const NAMES = { true: ["lies", "reaches to"], false: ["begins", "ends"] } as const;

/** The lines of gradients and pictures on the stage: drag an end, or nudge it with the arrow keys. */
export function GradientLines({ drawing, unit }: { drawing: Drawn; unit: number }) {
  const { edit } = liveNow();
  const burst = useBurst();
  const { plane, gradients } = drawing;

  function put({ line, end }: Held, [x, y]: Point, gesture: string, moving: boolean) {
    const to = [Number(x.toFixed(1)), Number(y.toFixed(1))];
    const [[x0, y0], [x1, y1]] = line.ends;
    // What lies about its middle goes along with it.
    const other = line.centred ? [x1 + x - x0, y1 + y - y0] : [x1, y1];
    const value = end === 0 ? [to, other] : [line.ends[0], to];
    edit([{ op: "lay-along", path: line.path, value }], { gesture, moving });
  }

  const hold = useDrag({
    threshold: 0,
    begin: (_, held: Held) => held,
    move: (held, event, _, gesture) => put(held, ontoFace(plane, canvasPoint(event)), gesture, true),
  });

  function nudge(held: Held, by: Point) {
    const [x, y] = held.line.ends[held.end];
    put(held, [x + by[0], y + by[1]], burst(), false);
  }

  return gradients.map((line) => {
    const ends = [ontoCanvas(plane, line.ends[0]), ontoCanvas(plane, line.ends[1])] as const;
    return (
      <g key={line.path} data-part="gradient-line" className="fill-none stroke-verdigris">
        <path className="stroke-sheet" d={`M${ends[0]}L${ends[1]}`} strokeWidth={3.5 * unit} />
        <path d={`M${ends[0]}L${ends[1]}`} strokeWidth={1.5 * unit} />
        {([0, 1] as const).map((end) => (
          <StageHandle
            key={end}
            at={ends[end]}
            size={end === 0 ? 6 : 4.5}
            unit={unit}
            name={`Where the ${line.of} of the ${line.part} ${NAMES[`${line.centred}`][end]}`}
            {...hold({ line, end })}
            onNudge={(by) => nudge({ line, end }, by)}
          />
        ))}
      </g>
    );
  });
}
