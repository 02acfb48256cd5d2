/** Acts on the picked point of a drawn line, for its keys, its context menu and the list of commands. */
import type { Context } from "../commands/command";
import { liveNow } from "../live/store";

/** A point of a line; those of drawn strokes have handles, as offsets. */
export interface LinePoint {
  x: number;
  y: number;
  in_x?: number;
  in_y?: number;
  out_x?: number;
  out_y?: number;
}

/** Handles pulled out of a point that has none reach so far to its neighbours. */
const REACH = 0.3;

/** The line that the picked point belongs to; none where it is gone. */
function pickedLine({ piece, desk }: Context): readonly LinePoint[] {
  let found: unknown = piece.document;
  for (const step of desk.point?.path.split("/").slice(1) ?? ["none"])
    found = (found as Record<string, unknown> | undefined)?.[step];
  return Array.isArray(found) ? found : [];
}

/** Whether the picked point can be made smooth, or a corner. */
export function isOnCurve(context: Context): boolean {
  const { point } = context.desk;
  return point?.curved === true && pickedLine(context)[point.at] !== undefined;
}

/** A line keeps two points. */
export const canSpare = (context: Context) => isOnCurve(context) && pickedLine(context).length > 2;

export function removePoint({ desk }: Context) {
  if (desk.point) liveNow().edit([{ op: "remove", path: `${desk.point.path}/${desk.point.at}` }]);
}

/** A corner gets handles along its neighbours; a smooth point loses its own. */
export function smoothPoint(context: Context) {
  const { point: picked } = context.desk;
  const line = pickedLine(context);
  const point = picked && line[picked.at];
  if (!point) return;
  const [before, after] = [line[picked.at - 1] ?? point, line[picked.at + 1] ?? point];
  const [dx, dy] = [(after.x - before.x) * REACH, (after.y - before.y) * REACH];
  const smooth = point.out_x || point.out_y || point.in_x || point.in_y;
  const handles = smooth ? { in_x: 0, in_y: 0, out_x: 0, out_y: 0 } : { in_x: -dx, in_y: -dy, out_x: dx, out_y: dy };
  liveNow().edit(
    Object.entries(handles).map(([name, value]) => ({
      op: "replace" as const,
      path: `${picked.path}/${picked.at}/${name}`,
      value: Number(value.toFixed(1)),
    })),
  );
}
