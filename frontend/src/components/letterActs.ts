/** Acts on the picked letter of the open block. */
import type { BlockDrawing } from "../api/client";
import type { Context } from "../commands/command";
import { liveNow } from "../live/store";

type Letters = BlockDrawing["letters"];

/** Which of these letters is picked: the one of this number, or the next after it; the last where there is none. */
export function pickedAmong(letters: Letters, number: number): number {
  const found = letters.findIndex(({ letter }) => letter >= number);
  return found < 0 ? letters.length - 1 : found;
}

function pickedEntry({ piece, picked, desk }: Context): Letters[number] | undefined {
  const letters = piece.drawings.blocks[picked[0] ?? 0]?.letters ?? [];
  return letters[pickedAmong(letters, desk.letter)];
}

function pickedLetter(context: Context): number | undefined {
  return pickedEntry(context)?.letter;
}

/** Whether the picked letter is set in its own way. */
export function hasOwnSetting(context: Context): boolean {
  const letter = pickedLetter(context);
  return context.block.kind === "lettering" && letter !== undefined && context.block.letters?.[letter] !== undefined;
}

export function setLikeTheOthers(context: Context) {
  liveNow().edit([{ op: "remove", path: `/blocks/${context.picked[0]}/letters/${pickedLetter(context)}` }]);
}

/** Whether somebody kerned the picked letter: the space before it is kept with the letter there. */
export function isKerned(context: Context): boolean {
  const before = pickedEntry(context)?.kerned;
  if (context.block.kind !== "lettering" || before === undefined || before === null) return false;
  return (context.block.letters?.[before]?.kern ?? 0) !== 0;
}

export function takeKernBack(context: Context) {
  const path = `/blocks/${context.picked[0]}/letters/${pickedEntry(context)?.kerned}/kern`;
  liveNow().edit([{ op: "replace", path, value: 0 }]);
}
