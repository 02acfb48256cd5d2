/** Nudging by keys: how far one press goes, and which presses are one step of history. */
import { useRef } from "react";
import { newGesture } from "../live/store";

const PAUSE_MS = 800;

/** Steps of one press: one, ten with Shift, a tenth with Alt. */
export function stride(event: { shiftKey: boolean; altKey: boolean }): number {
  return event.shiftKey ? 10 : event.altKey ? 0.1 : 1;
}

/** The gesture of the press that is being handled: the same while presses follow each other without a pause. */
export function useBurst(): () => string {
  const burst = useRef({ gesture: "", at: 0 });
  return () => {
    const now = performance.now();
    if (now - burst.current.at > PAUSE_MS) burst.current.gesture = newGesture();
    burst.current.at = now;
    return burst.current.gesture;
  };
}
