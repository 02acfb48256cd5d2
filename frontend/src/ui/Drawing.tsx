/** The sheet that a station's drawing lies on, and what is drawn alike on all of them. */
import type { ComponentProps, Ref } from "react";

export const SHEET = "w-full border border-rule bg-sheet text-small";

interface Props extends ComponentProps<"svg"> {
  ref?: Ref<SVGSVGElement>;
  width: number;
  height: number;
}

export function Drawing({ width, height, className = "", ...more }: Props) {
  return <svg data-part="drawing" className={`${SHEET} ${className}`} viewBox={`0 0 ${width} ${height}`} {...more} />;
}

export function Caption(props: ComponentProps<"text">) {
  return <text data-part="caption" className="fill-ink-2 text-caption font-semibold tracking-[0.06em]" {...props} />;
}

/** A line of symmetry or sight: long and short dashes. */
export function AxisLine(props: ComponentProps<"path">) {
  return <path className="fill-none stroke-ink-3 stroke-[0.8] [stroke-dasharray:8_3_2_3]" {...props} />;
}

interface DimensionProps {
  line: string;
  x: number;
  y: number;
  anchor?: "start" | "middle" | "end";
  accent?: boolean;
  children: string;
}

/** A dimension: its line, and the number on it. */
export function Dimension({ line, x, y, anchor, accent, children }: DimensionProps) {
  return (
    <>
      <path className={`fill-none ${accent ? "stroke-verdigris" : "stroke-ink-3"}`} d={line} />
      <text
        className={`stroke-sheet stroke-4 font-[650] [paint-order:stroke] ${accent ? "fill-verdigris" : ""}`}
        x={x}
        y={y}
        textAnchor={anchor}
      >
        {children}
      </text>
    </>
  );
}

const HANDLE =
  "pointer-events-auto cursor-grab touch-none fill-sheet stroke-verdigris hover:fill-verdigris-wash focus-visible:fill-verdigris focus-visible:outline-2 focus-visible:outline-offset-2 focus-visible:outline-verdigris";
/** A finger is wider than a pointer: 44 px, whatever the stage's scale. */
const FOR_A_FINGER =
  "pointer-coarse:stroke-verdigris/30 pointer-coarse:stroke-[32px] pointer-coarse:[vector-effect:non-scaling-stroke]";

/** A point to take hold of, in a drawing or on the stage. */
export function Handle({ stage, ...more }: ComponentProps<"circle"> & { stage?: boolean }) {
  return <circle data-part="handle" className={stage ? `${HANDLE} ${FOR_A_FINGER}` : HANDLE} strokeWidth={2} {...more} />;
}
