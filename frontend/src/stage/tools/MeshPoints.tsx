import type { Mesh, PieceState } from "../../api/client";
import { shownColour, usePaints } from "../../live/paints";
import { PlacedPoints } from "./PlacedPoints";

interface Props {
  mesh: Mesh;
  path: string;
  drawing: PieceState["drawings"]["backdrop"];
  unit: number;
}

/** The points of a mesh of colours on the stage. */
export function MeshPoints({ mesh, path, drawing, unit }: Props) {
  const paints = usePaints();
  const points = mesh.points.map(({ x, y, colour }, at) => ({
    x,
    y,
    name: `Point ${at + 1} of the mesh`,
    fill: shownColour(colour, paints),
  }));
  return <PlacedPoints points={points} path={`${path}/points`} drawing={drawing} unit={unit} />;
}
