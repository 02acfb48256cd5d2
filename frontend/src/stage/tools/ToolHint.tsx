import { deskNow, useDesk } from "../../live/desk";
import { TextAction } from "../../ui/TextAction";

const HINTS = {
  kerf: "Click along the cut. Enter or a double-click ends it, Backspace takes a point back, Escape leaves it.",
  pen: "Click point by point; drag to pull a curve. Enter or a double-click ends it, Backspace takes a point back.",
  along:
    "Click point by point along the curve that the words will follow; drag to pull it round. Enter or a double-click ends it.",
  letters:
    "Drag a letter away from the one before it, or nudge it with the left and right arrow keys. Escape puts the tool down.",
  highlight:
    "Press where the lamp is to shine, and drag its highlight about; or move the cross with the arrow keys and press Enter. Escape leaves it.",
  glint: "Press where light is. The arrow keys move the cross, Enter sets the star. Escape leaves it.",
  freehand: "Press and draw in one go; let go to end. Escape leaves it.",
};

/** What the tool in hand does, and a way to put it down. */
export function ToolHint() {
  const tool = useDesk((desk) => desk.tool);
  if (!tool) return null;
  return (
    <p
      data-part="tool-hint"
      className="absolute bottom-3.5 left-1/2 flex -translate-x-1/2 gap-3 rounded-sheet bg-sheet px-3 py-1.5 text-small"
      role="status"
    >
      {HINTS[tool]}
      <TextAction onClick={() => deskNow().take(null)}>Put down</TextAction>
    </p>
  );
}
