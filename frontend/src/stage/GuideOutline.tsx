import type { PieceState } from "../api/client";
import { closedPath, ontoCanvas, type Point } from "./plane";

/** A block that is a guide: its flat outlines at low strength, to draw over. */
export function GuideOutline({ drawing, unit }: { drawing: PieceState["drawings"]["blocks"][number]; unit: number }) {
  const path = drawing.outline
    .map((ring) => {
      const points: Point[] = [];
      for (let i = 0; i < ring.length; i += 2) points.push(ontoCanvas(drawing.plane, [ring[i], ring[i + 1]]));
      return closedPath(points);
    })
    .join("");
  return <path className="guide-outline" d={path} strokeWidth={unit} />;
}
