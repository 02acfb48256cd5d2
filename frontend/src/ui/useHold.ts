/** One way to press and drag: pointer capture, a threshold, and an end however it comes. */
import { type PointerEvent, useRef } from "react";

interface Hold<Held> {
  held: Held;
  pointer: number;
  from: readonly [number, number];
  moved: boolean;
}

export interface HoldOptions<What, Held> {
  /** What a press takes hold of, or null for nothing. */
  begin: (event: PointerEvent<Element>, what: What) => Held | null;
  /** The hand has moved by so many px of the screen since the press. */
  move: (held: Held, event: PointerEvent<Element>, by: readonly [number, number]) => void;
  /** The hand lets go, or the touch was taken away. */
  end?: (held: Held, moved: boolean) => void;
  /** Px below which a press is no drag. */
  threshold?: number;
}

/** Handlers for whatever `what` stands for. */
export function useHold<What, Held>({ begin, move, end, threshold = 3 }: HoldOptions<What, Held>) {
  const hold = useRef<Hold<Held> | null>(null);

  function letGo(event: PointerEvent<Element>) {
    const ending = hold.current;
    if (!ending || ending.pointer !== event.pointerId) return;
    hold.current = null;
    end?.(ending.held, ending.moved);
  }

  return (what: What) => ({
    onPointerDown(event: PointerEvent<Element>) {
      if (event.button !== 0 || hold.current) return;
      event.stopPropagation();
      const held = begin(event, what);
      if (held === null) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      hold.current = { held, pointer: event.pointerId, from: [event.clientX, event.clientY], moved: threshold === 0 };
    },
    onPointerMove(event: PointerEvent<Element>) {
      const holding = hold.current;
      if (!holding || holding.pointer !== event.pointerId) return;
      const by = [event.clientX - holding.from[0], event.clientY - holding.from[1]] as const;
      if (!holding.moved && Math.hypot(...by) < threshold) return;
      holding.moved = true;
      move(holding.held, event, by);
    },
    onPointerUp: letGo,
    onPointerCancel: letGo,
    onLostPointerCapture: letGo,
  });
}
