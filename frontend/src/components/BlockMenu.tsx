import { DropdownMenu } from "radix-ui";
import { deskNow } from "../live/desk";
import { useBlock, useDocument } from "../live/store";
import {
  addBlock,
  bringMark,
  centre,
  copyBlocks,
  draw,
  duplicateBlocks,
  giveLookToAll,
  pasteBlocks,
  pasteLook,
  removeBlocks,
  switchBlocks,
  traceBlock,
  useHasClip,
} from "./acts";
import { blockName } from "./blockName";
import { useFile } from "./FileButton";

/** The block the stations show; behind it the others, and ways to add, copy and remove one. */
export function BlockMenu() {
  const { blocks } = useDocument();
  const { block, index } = useBlock();
  const { openBlock } = deskNow();
  const clip = useHasClip();
  const mark = useFile({ name: "SVG", accept: ".svg,image/svg+xml", take: bringMark });

  return (
    <>
      {mark.input}
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="block-name">
          <span>Block: {blockName(block)}</span>
          <svg viewBox="0 0 10 6" width="9" aria-hidden="true">
            <path d="M1 1l4 4 4-4" fill="none" stroke="currentColor" strokeWidth="1.6" />
          </svg>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content className="popover menu" align="end" sideOffset={4}>
            <DropdownMenu.RadioGroup value={String(index)} onValueChange={(value) => openBlock(Number(value))}>
              {blocks.map((entry, at) => (
                <DropdownMenu.RadioItem key={entry.id} value={String(at)}>
                  {blockName(entry)}
                  {entry.hidden && <small> hidden</small>}
                  {entry.guide && <small> guide</small>}
                </DropdownMenu.RadioItem>
              ))}
            </DropdownMenu.RadioGroup>
            <DropdownMenu.Separator />
            <DropdownMenu.Item onSelect={() => addBlock({ kind: "lettering", words: "New" }, "lettering")}>
              Add lettering
            </DropdownMenu.Item>
            <DropdownMenu.Item onSelect={() => addBlock({ kind: "shape" }, "shape")}>Add a shape</DropdownMenu.Item>
            <DropdownMenu.Item onSelect={() => mark.open()}>Bring a mark (SVG)</DropdownMenu.Item>
            <DropdownMenu.Item onSelect={() => draw("pen")}>Draw a stroke by points</DropdownMenu.Item>
            <DropdownMenu.Item onSelect={() => draw("freehand")}>Draw a stroke freehand</DropdownMenu.Item>
            {block.kind === "lettering" && (
              <DropdownMenu.Item onSelect={traceBlock}>Draw over these words, as a guide</DropdownMenu.Item>
            )}
            <DropdownMenu.Separator />
            <DropdownMenu.Item onSelect={duplicateBlocks}>Duplicate this block</DropdownMenu.Item>
            <DropdownMenu.Item onSelect={copyBlocks}>Copy this block</DropdownMenu.Item>
            <DropdownMenu.Item disabled={!clip} onSelect={pasteBlocks}>
              Paste what was copied
            </DropdownMenu.Item>
            <DropdownMenu.Item disabled={!clip} onSelect={pasteLook}>
              Paste its look only
            </DropdownMenu.Item>
            <DropdownMenu.Item disabled={blocks.length < 2} onSelect={giveLookToAll}>
              Give its look to all blocks
            </DropdownMenu.Item>
            <DropdownMenu.Item onSelect={centre}>Centre it on the canvas</DropdownMenu.Item>
            <DropdownMenu.Item
              disabled={!block.hidden && blocks.filter((entry) => !entry.hidden && !entry.guide).length < 2}
              onSelect={() => switchBlocks("hidden", !block.hidden)}
            >
              {block.hidden ? "Show this block" : "Hide this block"}
            </DropdownMenu.Item>
            {block.guide && (
              <DropdownMenu.Item onSelect={() => switchBlocks("guide", false)}>Take it into the picture</DropdownMenu.Item>
            )}
            <DropdownMenu.Item disabled={blocks.length < 2} onSelect={removeBlocks}>
              Remove this block
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </>
  );
}
