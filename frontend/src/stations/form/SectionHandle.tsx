import type { KeyboardEvent } from "react";
import { stride, useBurst } from "../../components/nudging";
import { shown } from "../../fields/NumberField";
import { liveNow } from "../../live/store";
import { useDrag } from "../../live/useDrag";
import { Handle } from "../../ui/Drawing";

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
  least?: number;
}

/** A point of the section that is dragged, or nudged with the arrow keys, to change a number. */
export function SectionHandle({ label, x, y, value, path, scale, way, least = 0 }: Props) {
  const { edit } = liveNow();
  const burst = useBurst();

  function put(to: number, gesture: string, moving: boolean) {
    edit([{ op: "replace", path, value: Number(Math.max(to, least).toFixed(1)) }], { gesture, moving });
  }

  const hold = useDrag({
    threshold: 0,
    begin(event) {
      const frame = (event.currentTarget as SVGElement).ownerSVGElement as SVGSVGElement;
      // The drawing may rescale while the number grows; the hand keeps the scale it started with.
      return { from: value, perPx: (scale * frame.getBoundingClientRect().width) / frame.viewBox.baseVal.width };
    },
    move: ({ from, perPx }, _, [dx, dy], gesture) => put(from + (way === "down" ? dy : -dx) / perPx, gesture, true),
  });

  function onKeyDown(event: KeyboardEvent) {
    const grow = way === "down" ? "ArrowDown" : "ArrowLeft";
    const shrink = way === "down" ? "ArrowUp" : "ArrowRight";
    if (event.key !== grow && event.key !== shrink) return;
    event.preventDefault();
    const size = stride(event);
    put(value + (event.key === grow ? size : -size), burst(), false);
  }

  return (
    <Handle
      cx={x}
      cy={y}
      r={5}
      tabIndex={0}
      role="slider"
      aria-label={`${label}, on the section`}
      aria-valuenow={value}
      aria-valuetext={`${shown(value)} px`}
      {...hold(undefined)}
      onKeyDown={onKeyDown}
    />
  );
}
