/** Commands by name, for the list of all that can be done; and the keys there are, for their sheet. */
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
  pasteBlocks,
  pasteLook,
  removeBlocks,
  reorder,
  switchBlocks,
  traceBlock,
} from "./components/acts";
import { useDesk } from "./live/desk";
import { liveNow, useLive } from "./live/store";
import { STATIONS } from "./stations/stations";

export interface Command {
  name: string;
  keys?: string;
  run: () => void;
}

const ALIGN: How[] = ["left", "centre", "right", "top", "middle", "bottom"];
const SPREAD: How[] = ["spread across", "spread up"];

/** What can be done as things stand. */
export function useCommands(): Command[] {
  const piece = useLive((live) => live.piece);
  const desk = useDesk();
  if (!piece) return [];
  const { blocks } = piece.document;
  const block = blocks[Math.min(desk.block, blocks.length - 1)];
  const lettering = block.kind === "lettering";
  const step = liveNow().step;
  const stations = STATIONS.map((station, i) => ({
    name: `Open the station ${station.name}`,
    keys: String(i + 1),
    run: () => desk.openStation(station.id),
  }));
  const several = blocks.length > 1;
  return [
    ...stations,
    { name: "Add lettering", run: () => addBlock({ kind: "lettering", words: "New" }, "lettering") },
    { name: "Add a shape", run: () => addBlock({ kind: "shape" }, "shape") },
    { name: "Draw a stroke by points", run: () => draw("pen") },
    { name: "Draw a stroke freehand", run: () => draw("freehand") },
    ...(lettering ? [{ name: "Draw over these words, as a guide", run: traceBlock }] : []),
    ...(lettering ? [{ name: "Kern letters on the stage", run: () => desk.take("letters") }] : []),
    { name: "Centre on the canvas", run: centre },
    ...ALIGN.map((how) => ({ name: `Align to the canvas: ${how}`, run: () => arrange(how, "canvas") })),
    ...(several ? ALIGN.map((how) => ({ name: `Align to each other: ${how}`, run: () => arrange(how, "each other") })) : []),
    ...(several
      ? SPREAD.map((how) => ({ name: `${how[0].toUpperCase()}${how.slice(1)}`, run: () => arrange(how, "canvas") }))
      : []),
    { name: "Duplicate the picked blocks", keys: "Ctrl+D", run: duplicateBlocks },
    { name: "Copy the picked blocks", keys: "Ctrl+C", run: copyBlocks },
    { name: "Paste what was copied", keys: "Ctrl+V", run: pasteBlocks },
    { name: "Paste the look only", keys: "Ctrl+Shift+V", run: pasteLook },
    {
      name: block.locked ? "Unlock the picked blocks" : "Lock the picked blocks",
      run: () => switchBlocks("locked", !block.locked),
    },
    ...(several
      ? [
          { name: "Give this look to all blocks", run: giveLookToAll },
          { name: "Group the picked blocks", run: () => groupBlocks(true) },
          { name: "Ungroup the picked blocks", run: () => groupBlocks(false) },
          { name: "Move the block earlier in the list", run: () => reorder(-1) },
          { name: "Move the block later in the list", run: () => reorder(1) },
          {
            name: block.hidden ? "Show the picked blocks" : "Hide the picked blocks",
            run: () => switchBlocks("hidden", !block.hidden),
          },
          { name: "Remove the picked blocks", keys: "Delete", run: removeBlocks },
        ]
      : []),
    { name: desk.guides ? "Hide the guides" : "Show the guides", keys: "g", run: () => desk.showGuides(!desk.guides) },
    { name: desk.rulers ? "Hide the rulers" : "Show the rulers", keys: "r", run: () => desk.showRulers(!desk.rulers) },
    ...(piece.undo ? [{ name: `Undo: ${piece.undo}`, keys: "Ctrl+Z", run: () => step("undo") }] : []),
    ...(piece.redo ? [{ name: `Redo: ${piece.redo}`, keys: "Ctrl+Shift+Z", run: () => step("redo") }] : []),
    { name: "Show all keys", keys: "?", run: () => desk.openSheet("keys") },
  ];
}

export const KEYS: { place: string; keys: [string, string][] }[] = [
  {
    place: "Everywhere",
    keys: [
      ["1 … 7", "open a station"],
      ["F2", "list all that can be done"],
      ["?", "this sheet"],
      ["Ctrl+Z", "undo"],
      ["Ctrl+Shift+Z", "redo"],
      ["g", "guides on or off"],
      ["r", "rulers on or off"],
    ],
  },
  {
    place: "Numbers",
    keys: [
      ["↑ ↓", "one step up or down"],
      ["Shift", "with an arrow: ten steps"],
      ["Alt", "with an arrow: a tenth of a step"],
      ["Enter", "take what was typed: 12mm, 3/8in, 40+6"],
      ["Escape", "leave it as it was"],
    ],
  },
  {
    place: "Blocks on the stage",
    keys: [
      ["Tab", "go from block to block"],
      ["← ↑ → ↓", "move the picked blocks"],
      ["Enter", "open a block"],
      ["Shift+Enter", "pick a block too"],
      ["Alt", "while dragging: without snapping"],
      ["Ctrl+C, Ctrl+V", "copy and paste, from piece to piece too"],
      ["Ctrl+Shift+V", "paste the look only"],
      ["Ctrl+D", "duplicate"],
      ["Delete", "remove"],
    ],
  },
  {
    place: "Drawing and points",
    keys: [
      ["Enter", "end the line; on a point: smooth or corner"],
      ["Backspace", "take the last point back"],
      ["Delete", "remove a point"],
      ["Alt", "while pulling a handle: leave the other where it is"],
      ["Escape", "put the tool down"],
    ],
  },
  {
    place: "Letters",
    keys: [
      ["← →", "in the row: go to a letter; on the stage: kern it"],
      ["Home, End", "first and last letter"],
    ],
  },
];
