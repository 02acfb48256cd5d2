/** Nudging by keys: how far one press goes, and which presses are one step of history. */
import { useRef } from "react";
import { newGesture } from "../live/store";

const PAUSE_MS = 800;

const ARROWS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

/** The way of an arrow key, across and up; undefined for any other key. */
export function arrowOf(event: { key: string }): readonly [number, number] | undefined {
  return ARROWS[event.key];
}

/** Steps of one press: one, ten with Shift, a tenth with Alt. */
export function stride(event: { shiftKey: boolean; altKey: boolean }): number {
  return event.shiftKey ? 10 : event.altKey ? 0.1 : 1;
}

/** The gesture of the press that is being handled: the same while presses follow each other without a pause. */
export function useBurst(): () => string {
  const burst = useRef({ gesture: "", at: Number.NEGATIVE_INFINITY });
  return () => {
    const now = performance.now();
    if (now - burst.current.at > PAUSE_MS) burst.current.gesture = newGesture();
    burst.current.at = now;
    return burst.current.gesture;
  };
}

/**
 * Walking a number with the arrow keys: where a press leads to, and its gesture. Presses may come faster than the server
 * answers, so those of one burst count from where the one before led to, not from what is shown.
 */
export function useWalk(): (value: number, step: number) => { to: number; gesture: string } {
  const burst = useBurst();
  const last = useRef({ gesture: "", to: 0 });
  return (value, step) => {
    const gesture = burst();
    const from = last.current.gesture === gesture ? last.current.to : value;
    last.current = { gesture, to: from + step };
    return last.current;
  };
}
