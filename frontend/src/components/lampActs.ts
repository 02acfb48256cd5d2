/** Acts of the hand on lamps, for menus, keys and the list of commands. */
import type { Context } from "../commands/command";
import { liveNow } from "../live/store";
import { freshId } from "./freshId";

const FIRST_BEARING = 120;
const BEARING_STEP = 75;

/** A dimmer lamp beside the others, picked. */
export function addLamp({ piece, desk }: Context) {
  const { lamps } = piece.document.light;
  const id = freshId("lamp", lamps);
  const bearing = (FIRST_BEARING + BEARING_STEP * lamps.length) % 360;
  liveNow().edit([{ op: "add", path: "/light/lamps/-", value: { id, name: id.replace("-", " "), bearing, strength: -1 } }]);
  desk.openStation("light");
  desk.pickLamp(lamps.length);
}

const pathOf = ({ piece, lamp }: Context) =>
  `/light/lamps/${piece.document.light.lamps.findIndex((entry) => entry.id === lamp?.id)}`;

export function removeLamp(context: Context) {
  liveNow().edit([{ op: "remove", path: pathOf(context) }]);
}

export function switchLamp(context: Context) {
  liveNow().edit([{ op: "replace", path: `${pathOf(context)}/on`, value: !context.lamp?.on }]);
}
