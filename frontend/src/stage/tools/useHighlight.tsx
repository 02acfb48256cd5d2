import { useRef, useState } from "react";
import { arrowOf } from "../../components/nudging";
import { deskNow, useDesk } from "../../live/desk";
import { liveNow, newGesture, useDocument } from "../../live/store";
import type { Point } from "../plane";
import type { StageTool } from "./StageTool";

const NUDGE_PX = 4;

/** The picked lamp is to shine where the hand points: press, and drag the highlight about; or move the cross by arrow keys, and Enter. */
export function useHighlight(width: number, height: number, unit: number): StageTool {
  const { lamps } = useDocument().light;
  const picked = useDesk((desk) => desk.lamp);
  const index = Math.min(picked, lamps.length - 1);
  const name = lamps[index]?.name ?? "the lamp";
  const gesture = useRef("");
  const [cross, setCross] = useState<Point>([width / 2, height / 2]);

  function place(at: Point, moving: boolean) {
    const value = at.map((px) => Number(px.toFixed(1)));
    liveNow().edit([{ op: "highlight", path: `/light/lamps/${index}`, value }], { gesture: gesture.current, moving });
  }

  return {
    label: `Spot for the highlight of ${name}`,
    marks: <Cross at={cross} unit={unit} text={`highlight of ${name}`} />,
    hover: setCross,
    press(at) {
      gesture.current = newGesture();
      place(at, true);
    },
    drag: (at) => place(at, true),
    release() {
      liveNow().rest();
      deskNow().take(null);
    },
    key(event) {
      const way = arrowOf(event);
      const far = NUDGE_PX * unit * (event.shiftKey ? 10 : 1);
      if (way) setCross(([x, y]) => [x + way[0] * far, y - way[1] * far]);
      else if (event.key === "Enter") {
        gesture.current = newGesture();
        place(cross, false);
        deskNow().take(null);
      }
      return way !== undefined || event.key === "Enter";
    },
    cancel: () => deskNow().take(null),
  };
}

function Cross({ at, unit, text }: { at: Point; unit: number; text: string }) {
  return (
    <g data-part="highlight-cross" transform={`translate(${at[0]} ${at[1]}) scale(${unit})`}>
      <g className="fill-none stroke-white stroke-[1.6] drop-shadow-[0_0_1px_#000]">
        <circle r={9} />
        <path d="M-20 0H-5M5 0H20M0-20V-5M0 5V20" />
      </g>
      <g transform="translate(26 -26)">
        <rect className="fill-white" y={-13} width={14 + 6.3 * text.length} height={19} />
        <text className="text-small font-[650]" x={7} y={1}>
          {text}
        </text>
      </g>
    </g>
  );
}
