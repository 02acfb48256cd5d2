import { useRef, useState } from "react";
import { arrowOf } from "../../components/nudging";
import { deskNow, useDesk } from "../../live/desk";
import { liveNow, newGesture, useDocument } from "../../live/store";
import type { Point } from "../plane";
import { Cross } from "./Cross";
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
