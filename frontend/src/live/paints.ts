/** The paints of the open piece: named colours that others refer to as `paint:ID`. */
import type { NamedPaint } from "../api/client";
import { useLive } from "./store";

const PREFIX = "paint:";
const NONE: readonly NamedPaint[] = [];

export function usePaints(): readonly NamedPaint[] {
  return useLive((live) => live.piece?.document.paints ?? NONE);
}

export const referenceTo = (paint: NamedPaint) => `${PREFIX}${paint.id}`;

/** The paint that a colour refers to, if it does. */
export const paintOf = (colour: string, paints: readonly NamedPaint[]) =>
  colour.startsWith(PREFIX) ? paints.find((paint) => referenceTo(paint) === colour) : undefined;

/** A colour as it can be shown. */
export const shownColour = (colour: string, paints: readonly NamedPaint[]) => paintOf(colour, paints)?.colour ?? colour;
