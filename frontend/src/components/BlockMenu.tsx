import { ChevronDown } from "lucide-react";
import { CommandItems } from "../commands/CommandItems";
import { deskNow } from "../live/desk";
import { useBlock, useDocument } from "../live/store";
import { Menu, MenuChoice, MenuItem, MenuRule } from "../ui/Menu";
import { bringMark } from "./acts";
import { blockName } from "./blockName";
import { useFile } from "./FileButton";

/** What can be done with a block, here and in its context menu. */
export const OF_A_BLOCK = [
  "duplicate",
  "copy",
  "paste",
  "paste-look",
  "look-to-all",
  "-",
  "centre",
  "hide",
  "lock",
  "guide",
  "-",
  "remove",
] as const;

/** The block the stations show; behind it the others, and ways to add, copy and remove one. */
export function BlockMenu() {
  const { blocks } = useDocument();
  const { block, index } = useBlock();
  const mark = useFile({ name: "SVG", accept: ".svg,image/svg+xml", take: bringMark });
  const options = blocks.map((entry, at) => ({
    value: String(at),
    show: (
      <span>
        {blockName(entry)}
        {entry.hidden && <small className="text-ink-3"> hidden</small>}
        {entry.guide && <small className="text-ink-3"> guide</small>}
      </span>
    ),
  }));
  return (
    <>
      {mark.input}
      <Menu
        align="end"
        trigger={
          <button
            type="button"
            data-part="block-name"
            className="flex min-w-0 items-center gap-2 py-1 text-ink-2 hover:text-verdigris"
          >
            <span className="truncate">Block: {blockName(block)}</span>
            <ChevronDown size={14} className="shrink-0" aria-hidden="true" />
          </button>
        }
      >
        <MenuChoice value={String(index)} onChoose={(value) => deskNow().openBlock(Number(value))} options={options} />
        <MenuRule />
        <CommandItems ids={["add-lettering", "add-shape"]} />
        <MenuItem onSelect={() => mark.open()}>Import a mark (SVG)</MenuItem>
        <CommandItems ids={["draw-points", "draw-freehand", "trace", "-", ...OF_A_BLOCK]} />
      </Menu>
    </>
  );
}
