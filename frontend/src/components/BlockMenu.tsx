import { DropdownMenu } from "radix-ui";
import type { Block } from "../api/client";
import { useDesk } from "../live/desk";
import { useBlock, useDocument, useLive } from "../live/store";
import { freshId } from "./freshId";

const COPY_STEP_PX = 40;

/** What a block is called: its words, or what it is. */
export function blockName(block: Block): string {
  if (block.kind === "lettering") return block.words.replace(/\s+/g, " ").trim().slice(0, 24) || "no words";
  return block.kind === "shape" ? block.shape : "drawn strokes";
}

/** The block the stations show; behind it the others, and ways to add and remove one. */
export function BlockMenu() {
  const { blocks } = useDocument();
  const { block, index } = useBlock();
  const edit = useLive.getState().edit;
  const { openBlock, take, openStation } = useDesk.getState();

  function add(value: object, name: string) {
    edit([{ op: "add", path: "/blocks/-", value: { ...value, id: freshId(name, blocks) } }]);
    openBlock(blocks.length);
  }

  /** The copy stands a little below and to the right, so that both are seen. */
  function duplicate() {
    const { x, y } = block.place;
    add({ ...block, place: { ...block.place, x: x + COPY_STEP_PX, y: y - COPY_STEP_PX } }, block.kind);
  }

  /** A look is form and surface, without the words. */
  function giveLook() {
    const others = blocks.map((_, at) => at).filter((at) => at !== index);
    edit(
      others.flatMap((at) => [
        { op: "replace" as const, path: `/blocks/${at}/form`, value: block.form },
        { op: "replace" as const, path: `/blocks/${at}/surface`, value: block.surface },
      ]),
    );
  }

  function draw(tool: "pen" | "freehand") {
    openStation("set");
    take(tool);
  }

  return (
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
              </DropdownMenu.RadioItem>
            ))}
          </DropdownMenu.RadioGroup>
          <DropdownMenu.Separator />
          <DropdownMenu.Item onSelect={() => add({ kind: "lettering", words: "New" }, "lettering")}>
            Add lettering
          </DropdownMenu.Item>
          <DropdownMenu.Item onSelect={() => add({ kind: "shape" }, "shape")}>Add a shape</DropdownMenu.Item>
          <DropdownMenu.Item onSelect={() => draw("pen")}>Draw a stroke by points</DropdownMenu.Item>
          <DropdownMenu.Item onSelect={() => draw("freehand")}>Draw a stroke freehand</DropdownMenu.Item>
          <DropdownMenu.Separator />
          <DropdownMenu.Item onSelect={duplicate}>Duplicate this block</DropdownMenu.Item>
          <DropdownMenu.Item disabled={blocks.length < 2} onSelect={giveLook}>
            Give its look to all blocks
          </DropdownMenu.Item>
          <DropdownMenu.Item
            disabled={!block.place.x && !block.place.y}
            onSelect={() =>
              edit([
                { op: "replace", path: `/blocks/${index}/place/x`, value: 0 },
                { op: "replace", path: `/blocks/${index}/place/y`, value: 0 },
              ])
            }
          >
            Centre it on the canvas
          </DropdownMenu.Item>
          <DropdownMenu.Item
            disabled={!block.hidden && blocks.filter((entry) => !entry.hidden).length < 2}
            onSelect={() => edit([{ op: "replace", path: `/blocks/${index}/hidden`, value: !block.hidden }])}
          >
            {block.hidden ? "Show this block" : "Hide this block"}
          </DropdownMenu.Item>
          <DropdownMenu.Item disabled={blocks.length < 2} onSelect={() => edit([{ op: "remove", path: `/blocks/${index}` }])}>
            Remove this block
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
