import type { BlockDrawing } from "../api/client";
import { closedPath, ontoCanvas, type Point } from "./plane";

/** A block that is a guide: its flat outlines at low strength, to draw over. */
export function GuideOutline({ drawing, unit }: { drawing: BlockDrawing; unit: number }) {
  const path = drawing.outline
    .map((ring) => {
      const points: Point[] = [];
      for (let i = 0; i + 1 < ring.length; i += 2)
        points.push(ontoCanvas(drawing.plane, [ring[i] as number, ring[i + 1] as number]));
      return closedPath(points);
    })
    .join("");
  return <path data-part="guide-outline" className="fill-sheet/22 stroke-sheet/60" d={path} strokeWidth={unit} />;
}
