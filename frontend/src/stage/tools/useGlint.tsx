import { useState } from "react";
import { arrowOf } from "../../components/nudging";
import { deskNow, useDesk } from "../../live/desk";
import { liveNow } from "../../live/store";
import type { Point } from "../plane";
import { Cross } from "./Cross";
import type { StageTool } from "./StageTool";

const NUDGE_PX = 4;

/** A star is to stand where the hand points: press; or move the cross by arrow keys, and Enter. */
export function useGlint(width: number, height: number, unit: number): StageTool {
  const effect = useDesk((desk) => desk.effect);
  const [cross, setCross] = useState<Point>([width / 2, height / 2]);

  function place([x, y]: Point) {
    const value = { x: Number(((100 * x) / width).toFixed(2)), y: Number((100 - (100 * y) / height).toFixed(2)) };
    liveNow().edit([{ op: "add", path: `/finish/${effect}/spots/-`, value }]);
    deskNow().take(null);
  }

  return {
    label: "Spot for a star, where light is",
    marks: <Cross at={cross} unit={unit} text="star" />,
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
