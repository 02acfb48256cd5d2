import type { ComponentProps, KeyboardEvent } from "react";
import { arrowOf, stride } from "../../components/nudging";
import { Handle } from "../../ui/Drawing";
import type { Point } from "../plane";

interface Props extends Omit<ComponentProps<typeof Handle>, "stage" | "onKeyDown"> {
  /** Where it is, in px of the canvas from its top left. */
  at: Point;
  /** Its radius, in px of the stage. */
  size?: number;
  unit: number;
  /** What it is, at the beginning of a sentence. */
  name: string;
  /** The arrow keys move it by so many px, up being positive. */
  onNudge: (by: Point) => void;
}

/** A point on the stage to take hold of, or to nudge with the arrow keys. */
export function StageHandle({ at, size = 5, unit, name, onNudge, ...hold }: Props) {
  function onKeyDown(event: KeyboardEvent) {
    const way = arrowOf(event);
    if (!way) return;
    event.preventDefault();
    const far = stride(event);
    onNudge([way[0] * far, way[1] * far]);
  }
  return (
    <Handle
      stage
      cx={at[0]}
      cy={at[1]}
      r={size * unit}
      strokeWidth={2 * unit}
      tabIndex={0}
      role="button"
      aria-label={`${name}. Arrow keys move it.`}
      {...hold}
      onKeyDown={onKeyDown}
    />
  );
}
