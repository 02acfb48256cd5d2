import { useState } from "react";
import { arrowOf } from "../../components/nudging";
import { deskNow, useDesk } from "../../live/desk";
import { liveNow, useDocument } from "../../live/store";
import type { Point } from "../plane";
import type { StageTool } from "./StageTool";

const NUDGE_PX = 4;

/** Waits for the spot where the picked lamp is to shine: a click, or the cross moved by arrow keys and Enter. */
export function useHighlight(width: number, height: number, unit: number): StageTool {
  const { lamps } = useDocument().light;
  const picked = useDesk((desk) => desk.lamp);
  const lamp = lamps[Math.min(picked, lamps.length - 1)];
  const name = lamp?.name ?? "the lamp";
  const [cross, setCross] = useState<Point>([width / 2, height / 2]);

  function place([x, y]: Point) {
    deskNow().take(null);
    if (lamp) void liveNow().placeHighlight(lamp.id, x, y);
  }

  return {
    label: `Spot for the highlight of ${name}`,
    marks: <Cross at={cross} unit={unit} text={`highlight of ${name}`} />,
    hover: setCross,
    press: place,
    key(event) {
      const way = arrowOf(event);
      const far = NUDGE_PX * unit * (event.shiftKey ? 10 : 1);
      if (way) setCross(([x, y]) => [x + way[0] * far, y - way[1] * far]);
      else if (event.key === "Enter") place(cross);
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
