import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import { shown } from "../../components/NumberField";
import { stride, useBurst } from "../../components/nudging";
import { liveNow, newGesture } from "../../live/store";

interface Props {
  label: string;
  x: number;
  y: number;
  value: number;
  path: string;
  /** Drawing px per px of the piece. */
  scale: number;
  /** The way along which the number grows. */
  way: "down" | "left";
}

const LEAST = { "Bevel width": 0, "Bevel height": 0, Depth: 0.5 } as Record<string, number>;

/** A point of the section that is dragged, or nudged with the arrow keys, to change a number. */
export function SectionHandle({ label, x, y, value, path, scale, way }: Props) {
  const { edit, rest } = liveNow();
  const drag = useRef<{ at: number; from: number; scale: number; gesture: string } | null>(null);
  const burst = useBurst();

  function put(to: number, gesture: string, moving: boolean) {
    edit([{ op: "replace", path, value: Number(Math.max(to, LEAST[label]).toFixed(1)) }], { gesture, moving });
  }

  function onPointerDown(event: PointerEvent<SVGCircleElement>) {
    event.currentTarget.setPointerCapture(event.pointerId);
    const box = (event.currentTarget.ownerSVGElement as SVGSVGElement).getBoundingClientRect();
    const view = (event.currentTarget.ownerSVGElement as SVGSVGElement).viewBox.baseVal;
    // The drawing may rescale while the number grows; the hand keeps the scale it started with.
    const perPx = (scale * box.width) / view.width;
    drag.current = { at: way === "down" ? event.clientY : event.clientX, from: value, scale: perPx, gesture: newGesture() };
  }

  function onPointerMove(event: PointerEvent) {
    const held = drag.current;
    if (!held) return;
    const by = way === "down" ? event.clientY - held.at : held.at - event.clientX;
    put(held.from + by / held.scale, held.gesture, true);
  }

  function onKeyDown(event: KeyboardEvent) {
    const grow = way === "down" ? "ArrowDown" : "ArrowLeft";
    const shrink = way === "down" ? "ArrowUp" : "ArrowRight";
    if (event.key !== grow && event.key !== shrink) return;
    event.preventDefault();
    const size = stride(event);
    put(value + (event.key === grow ? size : -size), burst(), false);
  }

  return (
    <circle
      className="handle"
      cx={x}
      cy={y}
      r={5}
      tabIndex={0}
      role="slider"
      aria-label={`${label}, on the section`}
      aria-valuenow={value}
      aria-valuetext={`${shown(value)} px`}
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={() => {
        if (drag.current) rest();
        drag.current = null;
      }}
      onKeyDown={onKeyDown}
    />
  );
}
