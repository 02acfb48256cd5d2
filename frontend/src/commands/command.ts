/** A command: one thing that can be done, wherever it is asked for. The registry (registry.ts) lists them all. */
import type { Block, PieceState } from "../api/client";
import { deskNow } from "../live/desk";
import { liveNow } from "../live/store";

/** What a command acts on: the open piece and what is picked. */
export interface Context {
  piece: PieceState;
  block: Block;
  /** Numbers of all picked blocks, the open one first. */
  picked: readonly [number, ...number[]];
  lamp: PieceState["document"]["light"]["lamps"][number] | undefined;
  desk: ReturnType<typeof deskNow>;
}

export const PLACES = ["Piece", "Blocks", "Arrange", "Letters", "Light", "Screen"] as const;

export interface Command {
  id: string;
  place: (typeof PLACES)[number];
  /** What it is called; it may name what it acts on. */
  name: string | ((context: Context) => string);
  /** Its keys, such as `Mod+Shift+Z`; Mod is Ctrl, or Cmd on a Mac. */
  keys?: string;
  /** What its keys ask of the element that has the focus, as a selector; without it any that takes no typing. */
  keysAt?: string;
  /** Whether its keys work while something is typed. */
  whileTyping?: true;
  /** Whether it lasts only while its key is held: a key that is pressed briefly leaves it done. */
  held?: true;
  /** Whether it can be done as things stand. */
  when?: (context: Context) => boolean;
  run: (context: Context) => void;
}

/** What commands act on now; null before a piece is there. */
export function contextNow(): Context | null {
  const { piece } = liveNow();
  return piece && contextOf(piece, deskNow());
}

export function contextOf(piece: PieceState, desk: Context["desk"]): Context | null {
  const { blocks, light } = piece.document;
  const index = Math.min(desk.block, blocks.length - 1);
  const block = blocks[index];
  if (!block) return null;
  return {
    piece,
    block,
    picked: [index, ...desk.also.filter((at) => at < blocks.length)],
    lamp: light.lamps[Math.min(desk.lamp, light.lamps.length - 1)],
    desk,
  };
}

export function nameOf(command: Command, context: Context): string {
  return typeof command.name === "string" ? command.name : command.name(context);
}

const MAC = navigator.platform.startsWith("Mac");

/** Keys as they are printed on this keyboard: `Ctrl+D`. */
export function printed(keys: string): string {
  return keys.replace("Mod", MAC ? "Cmd" : "Ctrl");
}

/** Whether a key press is the one of these keys. Shift is part of a sign such as `?`. */
export function isPressed(keys: string, event: KeyboardEvent): boolean {
  const parts = keys.split("+");
  const key = parts.pop() ?? "";
  const sign = key.length === 1 && !/[a-z0-9]/i.test(key);
  return (
    event.key.toLowerCase() === key.toLowerCase() &&
    (event.ctrlKey || event.metaKey) === parts.includes("Mod") &&
    event.altKey === parts.includes("Alt") &&
    (sign || event.shiftKey === parts.includes("Shift"))
  );
}
