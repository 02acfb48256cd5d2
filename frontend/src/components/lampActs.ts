/** Acts of the hand on lamps, for menus, keys and the list of commands. */
import type { Context } from "../commands/command";
import { liveNow } from "../live/store";
import { act } from "./acts";
import { freshId } from "./freshId";

const FIRST_BEARING = 120;
const BEARING_STEP = 75;

/** A dimmer lamp beside the others, picked. */
function add({ piece, desk }: Pick<Context, "piece" | "desk">) {
  const { lamps } = piece.document.light;
  const id = freshId("lamp", lamps);
  const bearing = (FIRST_BEARING + BEARING_STEP * lamps.length) % 360;
  liveNow().edit([{ op: "add", path: "/light/lamps/-", value: { id, name: id.replace("-", " "), bearing, strength: -1 } }]);
  desk.openStation("light");
  desk.pickLamp(lamps.length);
}

export const addLamp = act(add);

const pathOf = ({ piece, lamp }: Pick<Context, "piece" | "lamp">) =>
  `/light/lamps/${piece.document.light.lamps.findIndex((entry) => entry.id === lamp?.id)}`;

export const removeLamp = act((now) => {
  if (now.lamp) liveNow().edit([{ op: "remove", path: pathOf(now) }]);
});

export const switchLamp = act((now) => {
  if (now.lamp) liveNow().edit([{ op: "replace", path: `${pathOf(now)}/on`, value: !now.lamp.on }]);
});

/** The picked lamp on and all others off; where they are, all on. */
export const leaveLampAlone = act((now) => {
  if (now.lamp) liveNow().edit([{ op: "alone", path: pathOf(now), value: null }]);
});

/** A lamp that waits for the spot where it is to shine. */
export const addLampByHighlight = act((now) => {
  add(now);
  now.desk.take("highlight");
});
