/** One way to drag, for all that is dragged: on the stage, in drawings and in the panel. */
import { type PointerEvent, useRef } from "react";
import { liveNow, newGesture } from "./store";

/** A press that has become a hold of something. */
interface Hold<Held> {
  held: Held;
  pointer: number;
  from: readonly [number, number];
  gesture: string;
  moved: boolean;
}

interface Options<What, Held> {
  /** What a press takes hold of, or null for nothing. */
  begin: (event: PointerEvent<Element>, what: What) => Held | null;
  /** The hand has moved by so many px of the screen since the press; its edits carry the gesture. */
  move: (held: Held, event: PointerEvent<Element>, by: readonly [number, number], gesture: string) => void;
  /** The hand lets go, or the touch was taken away. */
  end?: (held: Held, moved: boolean) => void;
  /** Px below which a press is no drag. */
  threshold?: number;
}

/** Handlers for whatever `what` stands for. Edits made while dragging rest when the hand lets go. */
export function useDrag<What, Held>({ begin, move, end, threshold = 3 }: Options<What, Held>) {
  const hold = useRef<Hold<Held> | null>(null);

  function letGo(event: PointerEvent<Element>) {
    const ending = hold.current;
    if (!ending || ending.pointer !== event.pointerId) return;
    hold.current = null;
    if (ending.moved) liveNow().rest();
    end?.(ending.held, ending.moved);
  }

  return (what: What) => ({
    onPointerDown(event: PointerEvent<Element>) {
      if (event.button !== 0 || hold.current) return;
      event.stopPropagation();
      const held = begin(event, what);
      if (held === null) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      const from = [event.clientX, event.clientY] as const;
      hold.current = { held, pointer: event.pointerId, from, gesture: newGesture(), moved: threshold === 0 };
    },
    onPointerMove(event: PointerEvent<Element>) {
      const holding = hold.current;
      if (!holding || holding.pointer !== event.pointerId) return;
      const by = [event.clientX - holding.from[0], event.clientY - holding.from[1]] as const;
      if (!holding.moved && Math.hypot(...by) < threshold) return;
      holding.moved = true;
      move(holding.held, event, by, holding.gesture);
    },
    onPointerUp: letGo,
    onPointerCancel: letGo,
    onLostPointerCapture: letGo,
  });
}
