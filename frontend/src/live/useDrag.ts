/** Dragging that changes the document: all its edits are one gesture, and rest when the hand lets go. */
import type { PointerEvent } from "react";
import { type HoldOptions, useHold } from "../ui/useHold";
import { liveNow, newGesture } from "./store";

interface Options<What, Held> extends Omit<HoldOptions<What, Held>, "move"> {
  /** The hand has moved by so many px of the screen since the press; its edits carry the gesture. */
  move: (held: Held, event: PointerEvent<Element>, by: readonly [number, number], gesture: string) => void;
}

/** Handlers for whatever `what` stands for. */
export function useDrag<What, Held>({ begin, move, end, threshold }: Options<What, Held>) {
  return useHold<What, { held: Held; gesture: string }>({
    threshold,
    begin(event, what) {
      const held = begin(event, what);
      return held === null ? null : { held, gesture: newGesture() };
    },
    move: ({ held, gesture }, event, by) => move(held, event, by, gesture),
    end({ held }, moved) {
      if (moved) liveNow().rest();
      end?.(held, moved);
    },
  });
}
