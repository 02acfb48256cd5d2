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

function pickedLetter({ piece, picked, desk }: Context): number | undefined {
  const letters = piece.drawings.blocks[picked[0] ?? 0]?.letters ?? [];
  return letters[pickedAmong(letters, desk.letter)]?.letter;
}

/** Whether the picked letter is set in its own way. */
export function hasOwnSetting(context: Context): boolean {
  const letter = pickedLetter(context);
  return context.block.kind === "lettering" && letter !== undefined && context.block.letters?.[letter] !== undefined;
}

export function setLikeTheOthers(context: Context) {
  liveNow().edit([{ op: "remove", path: `/blocks/${context.picked[0]}/letters/${pickedLetter(context)}` }]);
}
