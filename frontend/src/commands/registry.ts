/** All commands, for keys, the list of commands, the sheet of keys, menus and context menus. */

import type { Lamp } from "../api/client";
import {
  addBlock,
  arrange,
  centre,
  copyBlocks,
  draw,
  duplicateBlocks,
  giveLookToAll,
  groupBlocks,
  type How,
  hasClip,
  pasteBlocks,
  pasteLook,
  removeBlocks,
  reorder,
  switchBlocks,
  traceBlock,
} from "../components/acts";
import { addLamp, addLampByHighlight, leaveLampAlone, removeLamp, switchLamp } from "../components/lampActs";
import { hasOwnSetting, isKerned, setLikeTheOthers, takeKernBack } from "../components/letterActs";
import { canSpare, isOnCurve, removePoint, smoothPoint } from "../components/pointActs";
import { liveNow } from "../live/store";
import { partAround, stageScale, WHOLE, zoomedAbout } from "../stage/part";
import { cornersOf } from "../stage/plane";
import type { Span } from "../stage/snapping";
import { STATIONS } from "../stations/stations";
import { toast } from "../ui/Toasts";
import { type Command, type Context, contextNow } from "./command";

const several = ({ piece }: Context) => piece.document.blocks.length > 1;
const isAlone = (lamp: Lamp, lamps: readonly Lamp[]) => lamps.every((entry) => entry.on === (entry.id === lamp.id));
const lettering = ({ block }: Context) => block.kind === "lettering";
const these = ({ picked }: Context) => (picked.length > 1 ? "the picked blocks" : "this block");

const ZOOM_STEP = Math.SQRT2;
const MIDDLE = [0.5, 0.5] as const;
const zoomBy = ({ desk, piece }: Context, factor: number) =>
  desk.look(zoomedAbout(desk.part, factor, MIDDLE, piece.document.canvas));
/** So many px of the screen to a px of the canvas. */
const zoomTo = (now: Context, scale: number) => zoomBy(now, scale / stageScale(now.desk, now.piece.document.canvas));

function zoomToBlock({ desk, piece, picked }: Context) {
  const { plane, box } = piece.drawings.blocks[picked[0] ?? 0] ?? {};
  if (!plane || !box) return;
  const corners = cornersOf(box as Span, plane);
  const [across, down] = [corners.map(([x]) => x), corners.map(([, y]) => y)];
  desk.look(partAround([Math.min(...across), Math.min(...down), Math.max(...across), Math.max(...down)], piece.document.canvas));
}

/** A picture shows at least one block. */
const othersAreSeen = ({ piece }: Context) => piece.document.blocks.filter((block) => !block.hidden && !block.guide).length > 1;

const ALIGN: How[] = ["left", "centre", "right", "top", "middle", "bottom"];

export const COMMANDS: readonly Command[] = [
  // Whether there is anything to undo or redo the server knows: what was done before may still be on its way.
  {
    id: "undo",
    place: "Piece",
    name: ({ piece }) => (piece.undo ? `Undo: ${piece.undo}` : "Undo"),
    keys: "Mod+Z",
    whileTyping: true,
    run: () => liveNow().step("undo"),
  },
  {
    id: "redo",
    place: "Piece",
    name: ({ piece }) => (piece.redo ? `Redo: ${piece.redo}` : "Redo"),
    keys: "Mod+Shift+Z",
    whileTyping: true,
    run: () => liveNow().step("redo"),
  },
  {
    id: "add-lettering",
    place: "Blocks",
    name: "Add lettering",
    run: () => addBlock({ kind: "lettering", words: "New" }, "lettering"),
  },
  { id: "add-shape", place: "Blocks", name: "Add a shape", run: () => addBlock({ kind: "shape" }, "shape") },
  { id: "draw-points", place: "Blocks", name: "Draw a stroke by points", run: () => draw("pen") },
  { id: "draw-freehand", place: "Blocks", name: "Draw a stroke freehand", run: () => draw("freehand") },
  { id: "trace", place: "Blocks", name: "Draw over these words, as a guide", when: lettering, run: traceBlock },
  { id: "duplicate", place: "Blocks", name: (now) => `Duplicate ${these(now)}`, keys: "Mod+D", run: duplicateBlocks },
  { id: "copy", place: "Blocks", name: (now) => `Copy ${these(now)}`, keys: "Mod+C", run: copyBlocks },
  { id: "paste", place: "Blocks", name: "Paste what was copied", keys: "Mod+V", when: hasClip, run: pasteBlocks },
  { id: "paste-look", place: "Blocks", name: "Paste its look only", keys: "Mod+Shift+V", when: hasClip, run: pasteLook },
  { id: "look-to-all", place: "Blocks", name: "Give its look to all blocks", when: several, run: giveLookToAll },
  {
    id: "hide",
    place: "Blocks",
    name: (now) => `${now.block.hidden ? "Show" : "Hide"} ${these(now)}`,
    when: (now) => now.block.hidden || othersAreSeen(now),
    run: ({ block }) => switchBlocks("hidden", !block.hidden),
  },
  {
    id: "guide",
    place: "Blocks",
    name: ({ block }) => (block.guide ? "Take it into the picture" : "Make it a guide"),
    when: (now) => now.block.guide || othersAreSeen(now),
    run: ({ block }) => switchBlocks("guide", !block.guide),
  },
  {
    id: "lock",
    place: "Blocks",
    name: (now) => `${now.block.locked ? "Unlock" : "Lock"} ${these(now)}`,
    run: ({ block }) => switchBlocks("locked", !block.locked),
  },
  { id: "group", place: "Blocks", name: "Group the picked blocks", when: several, run: () => groupBlocks(true) },
  { id: "ungroup", place: "Blocks", name: "Ungroup the picked blocks", when: several, run: () => groupBlocks(false) },
  { id: "earlier", place: "Blocks", name: "Move the block earlier in the list", when: several, run: () => reorder(-1) },
  { id: "later", place: "Blocks", name: "Move the block later in the list", when: several, run: () => reorder(1) },
  {
    id: "remove",
    place: "Blocks",
    name: (now) => `Remove ${these(now)}`,
    keys: "Delete",
    keysAt: "[data-part=block-frame]",
    when: several,
    run: removeBlocks,
  },
  { id: "centre", place: "Arrange", name: "Centre on the canvas", run: centre },
  ...ALIGN.map(
    (how): Command => ({
      id: `align-canvas-${how}`,
      place: "Arrange",
      name: `Align to the canvas: ${how}`,
      run: () => arrange(how, "canvas"),
    }),
  ),
  ...ALIGN.map(
    (how): Command => ({
      id: `align-each-${how}`,
      place: "Arrange",
      name: `Align to each other: ${how}`,
      when: several,
      run: () => arrange(how, "each other"),
    }),
  ),
  { id: "spread-across", place: "Arrange", name: "Spread across", when: several, run: () => arrange("spread across", "canvas") },
  { id: "spread-up", place: "Arrange", name: "Spread up", when: several, run: () => arrange("spread up", "canvas") },
  {
    id: "kern",
    place: "Letters",
    name: "Kern letters on the stage",
    when: lettering,
    run: ({ desk }) => {
      desk.openStation("set");
      desk.take("letters");
    },
  },
  {
    id: "plain-letter",
    place: "Letters",
    name: "Set the picked letter like the others",
    when: hasOwnSetting,
    run: setLikeTheOthers,
  },
  {
    id: "unkern",
    place: "Letters",
    name: "Remove the kern before the picked letter",
    when: isKerned,
    run: takeKernBack,
  },
  {
    id: "smooth-point",
    place: "Letters",
    name: "Make the picked point smooth, or a corner",
    when: isOnCurve,
    run: smoothPoint,
  },
  { id: "remove-point", place: "Letters", name: "Remove the picked point", when: canSpare, run: removePoint },
  { id: "add-lamp", place: "Light", name: "Add a lamp", run: addLamp },
  {
    id: "add-lamp-by-highlight",
    place: "Light",
    name: "Add a lamp where I click its highlight",
    run: addLampByHighlight,
  },
  {
    id: "switch-lamp",
    place: "Light",
    name: ({ lamp }) => (lamp ? `Switch ${lamp.on ? "off" : "on"} ${lamp.name}` : "Switch the lamp"),
    when: ({ lamp }) => lamp !== undefined,
    run: switchLamp,
  },
  {
    id: "lamp-alone",
    place: "Light",
    name: ({ lamp, piece }) =>
      lamp && !isAlone(lamp, piece.document.light.lamps) ? `Only ${lamp.name}, other lamps off` : "All lamps on",
    when: ({ lamp, piece }) => lamp !== undefined && piece.document.light.lamps.length > 1,
    run: leaveLampAlone,
  },
  {
    id: "highlight",
    place: "Light",
    name: "Place the lamp's highlight on the stage",
    when: ({ lamp }) => lamp !== undefined,
    run: ({ desk }) => {
      desk.openStation("light");
      desk.take("highlight");
    },
  },
  {
    id: "remove-lamp",
    place: "Light",
    name: ({ lamp }) => (lamp ? `Remove ${lamp.name}` : "Remove the lamp"),
    when: ({ lamp }) => lamp !== undefined,
    run: removeLamp,
  },
  ...STATIONS.map(
    (station, i): Command => ({
      id: `station-${station.id}`,
      place: "Screen",
      name: `Open the station ${station.name}`,
      keys: String(i + 1),
      run: ({ desk }) => desk.openStation(station.id),
    }),
  ),
  { id: "zoom-fit", place: "Screen", name: "Zoom: fit the stage", keys: "0", run: ({ desk }) => desk.look(WHOLE) },
  { id: "zoom-in", place: "Screen", name: "Zoom in", keys: "+", run: (now) => zoomBy(now, ZOOM_STEP) },
  { id: "zoom-out", place: "Screen", name: "Zoom out", keys: "-", run: (now) => zoomBy(now, 1 / ZOOM_STEP) },
  { id: "zoom-100", place: "Screen", name: "Zoom: 100 %", run: (now) => zoomTo(now, 1) },
  { id: "zoom-200", place: "Screen", name: "Zoom: 200 %", run: (now) => zoomTo(now, 2) },
  { id: "zoom-block", place: "Screen", name: "Zoom: to the picked block", run: zoomToBlock },
  {
    id: "guides",
    place: "Screen",
    name: ({ desk }) => (desk.guides ? "Hide the guides" : "Show the guides"),
    keys: "G",
    run: ({ desk }) => desk.showGuides(!desk.guides),
  },
  {
    id: "rulers",
    place: "Screen",
    name: ({ desk }) => (desk.rulers ? "Hide the rulers" : "Show the rulers"),
    keys: "R",
    run: ({ desk }) => desk.showRulers(!desk.rulers),
  },
  {
    id: "bare",
    place: "Screen",
    name: ({ desk }) => (desk.bare ? "Show the picture with its effects" : "Show the picture without its effects"),
    keys: "F",
    held: true,
    run: ({ desk }) => desk.showBare(!desk.bare),
  },
  {
    id: "alone",
    place: "Screen",
    name: ({ desk }) => (desk.alone ? "Show everything again" : "Show the picture alone"),
    keys: "P",
    run: ({ desk }) => {
      desk.showAlone(!desk.alone);
      if (!desk.alone) toast("P shows everything again");
    },
  },
  {
    id: "put-down",
    place: "Screen",
    name: "Put the tool down",
    keys: "Escape",
    when: ({ desk }) => desk.tool !== null,
    run: ({ desk }) => desk.take(null),
  },
  {
    id: "commands",
    place: "Screen",
    name: "All commands",
    keys: "F2",
    whileTyping: true,
    run: ({ desk }) => desk.openSheet("commands"),
  },
  { id: "keys", place: "Screen", name: "All keys", keys: "?", run: ({ desk }) => desk.openSheet("keys") },
];

const BY_ID = new Map(COMMANDS.map((command) => [command.id, command]));

/** A command by its id. Throws for one that there is not. */
export function commandOf(id: string): Command {
  const command = BY_ID.get(id);
  if (!command) throw new Error(`there is no command ${id}`);
  return command;
}

/** Does a command by its id, if it can be done as things stand. */
export function runCommand(id: string) {
  const command = commandOf(id);
  const context = contextNow();
  if (context && command.when?.(context) !== false) command.run(context);
}
