/** Zooming and panning the stage: the wheel and two fingers zoom, the middle button, Shift with the wheel and two fingers pan. */
import { type PointerEvent, type RefObject, useEffect, useRef } from "react";
import { deskNow } from "../live/desk";
import { liveNow } from "../live/store";
import { panned, zoomedAbout } from "./part";

const WHEEL_RATE = 0.0016;

type Share = readonly [number, number];

/** `room` is all of the stage, `frame` the picture in it. */
export function useStageView(room: RefObject<HTMLElement | null>, frame: RefObject<HTMLElement | null>) {
  const fingers = useRef(new Map<number, Share>());
  /** Fingers that have pinched: until they are lifted they turn nothing. */
  const pinched = useRef(new Set<number>());

  function shareOf(event: { clientX: number; clientY: number }): Share {
    const box = (frame.current as HTMLElement).getBoundingClientRect();
    return [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
  }

  // Not by onWheel: a listener of the page's own may not keep the page from scrolling.
  useEffect(() => {
    const element = room.current;
    function onWheel(event: WheelEvent) {
      const canvas = liveNow().piece?.document.canvas;
      const box = frame.current?.getBoundingClientRect();
      if (!canvas || !box) return;
      event.preventDefault();
      const { part, look } = deskNow();
      if (event.shiftKey && !event.ctrlKey) {
        look(panned(part, [(event.deltaX || event.deltaY) / box.width, 0], canvas));
        return;
      }
      const share: Share = [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
      look(zoomedAbout(part, Math.exp(-event.deltaY * WHEEL_RATE), share, canvas));
    }
    element?.addEventListener("wheel", onWheel, { passive: false });
    return () => element?.removeEventListener("wheel", onWheel);
  }, [room, frame]);

  function onPointerDownCapture(event: PointerEvent) {
    if (event.pointerType === "touch" || event.button === 1) fingers.current.set(event.pointerId, shareOf(event));
    if (event.button !== 1 && fingers.current.size < 2) return;
    for (const pointer of fingers.current.keys()) pinched.current.add(pointer);
    event.stopPropagation();
    event.preventDefault();
    event.currentTarget.setPointerCapture(event.pointerId);
  }

  function onPointerMoveCapture(event: PointerEvent) {
    const held = fingers.current;
    const before = held.get(event.pointerId);
    const canvas = liveNow().piece?.document.canvas;
    if (!before || !canvas) return;
    const here = shareOf(event);
    held.set(event.pointerId, here);
    if (!pinched.current.has(event.pointerId)) return;
    event.stopPropagation();
    if (event.pointerType === "touch" && held.size < 2) return;
    const { part, look } = deskNow();
    const other = [...held].find(([pointer]) => pointer !== event.pointerId)?.[1];
    const moved = panned(part, [before[0] - here[0], before[1] - here[1]], canvas);
    if (!other) {
      look(moved);
      return;
    }
    // Of two fingers, one moves at a time: half its way pans, and how far they are apart zooms.
    const apart = (a: Share) => Math.hypot(a[0] - other[0], a[1] - other[1]);
    const middle: Share = [(here[0] + other[0]) / 2, (here[1] + other[1]) / 2];
    const half = panned(part, [(before[0] - here[0]) / 2, (before[1] - here[1]) / 2], canvas);
    look(zoomedAbout(half, apart(here) / Math.max(apart(before), 1e-3), middle, canvas));
  }

  function letGo(event: PointerEvent) {
    fingers.current.delete(event.pointerId);
    pinched.current.delete(event.pointerId);
  }

  return { onPointerDownCapture, onPointerMoveCapture, onPointerUpCapture: letGo, onPointerCancelCapture: letGo };
}
