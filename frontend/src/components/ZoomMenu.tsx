import { CommandItems } from "../commands/CommandItems";
import { useDesk } from "../live/desk";
import { useDocument } from "../live/store";
import { stageScale } from "../stage/part";
import { Menu } from "../ui/Menu";

/** How large the stage shows the canvas, and ways to look closer. */
export function ZoomMenu() {
  const desk = useDesk();
  const { canvas } = useDocument();
  const percent = Math.round(100 * stageScale(desk, canvas));
  return (
    <Menu
      trigger={
        <button
          type="button"
          className="rounded-sheet px-2 py-1 hover:bg-paper-recess pointer-coarse:min-h-11"
          aria-label={`Zoom: ${percent} %`}
        >
          {percent} %
        </button>
      }
    >
      <CommandItems ids={["zoom-fit", "zoom-100", "zoom-200", "zoom-block", "-", "zoom-in", "zoom-out"]} />
    </Menu>
  );
}
