import { useState } from "react";
import { arrange, centre, groupBlocks, type How, removeBlocks, reorder, switchBlocks } from "../../components/acts";
import { blockName } from "../../components/blockName";
import { deskNow, useDesk } from "../../live/desk";
import { useBlock, useDocument } from "../../live/store";
import { Choice } from "../../ui/Choice";
import { Actions } from "../../ui/Rows";
import { ScrollArea } from "../../ui/ScrollArea";
import { Section } from "../../ui/Section";
import { TextAction } from "../../ui/TextAction";
import { Tick } from "../../ui/Tick";

const ROWS: How[][] = [
  ["left", "centre", "right", "spread across"],
  ["top", "middle", "bottom", "spread up"],
];

/** All blocks of the piece: pick one or several; align, spread, group, lock, hide and order them. */
export function BlocksGroup() {
  const { blocks } = useDocument();
  const { index, block } = useBlock();
  const also = useDesk((desk) => desk.also);
  const { openBlock, pickAlso } = deskNow();
  const [to, setTo] = useState<"canvas" | "each other">("canvas");
  const picked = [index, ...also];
  return (
    <Section
      title="Blocks"
      help="Everything in the piece. Tick several blocks to move, align or group them together; on the stage, hold Shift and click."
      actions={<TextAction onClick={centre}>Centre on the canvas</TextAction>}
    >
      <ScrollArea className="border border-rule bg-sheet" upTo="max-h-42">
        <ul data-part="blocks">
          {blocks.map((entry, at) => (
            <li
              key={entry.id}
              data-open={at === index || undefined}
              className="flex items-center data-open:shadow-[inset_3px_0_var(--color-verdigris)]"
            >
              <span className="mx-2">
                <Tick
                  label={`Pick ${blockName(entry)} too`}
                  hideLabel
                  on={picked.includes(at)}
                  disabled={at === index}
                  onChange={() => pickAlso(at)}
                />
              </span>
              <button
                type="button"
                className="flex min-h-7 min-w-0 flex-1 justify-between gap-2 py-[3px] pr-2 pl-0.5 text-left hover:bg-paper-recess aria-pressed:font-[650] pointer-coarse:min-h-10"
                aria-pressed={at === index}
                onClick={() => openBlock(at)}
              >
                {blockName(entry)}
                <small className="text-ink-3">
                  {[entry.hidden && "hidden", entry.guide && "guide", entry.locked && "locked", entry.group]
                    .filter(Boolean)
                    .join(", ")}
                </small>
              </button>
            </li>
          ))}
        </ul>
      </ScrollArea>
      <Actions>
        <TextAction onClick={() => switchBlocks("locked", !block.locked)}>{block.locked ? "Unlock" : "Lock"}</TextAction>
        <TextAction onClick={() => switchBlocks("hidden", !block.hidden)}>{block.hidden ? "Show" : "Hide"}</TextAction>
        {(picked.length > 1 || block.group) && (
          <TextAction onClick={() => groupBlocks(!block.group)}>{block.group ? "Ungroup" : "Group"}</TextAction>
        )}
        {blocks.length > 1 && (
          <>
            <TextAction disabled={index === 0} onClick={() => reorder(-1)}>
              Earlier
            </TextAction>
            <TextAction disabled={index === blocks.length - 1} onClick={() => reorder(1)}>
              Later
            </TextAction>
            <TextAction disabled={picked.length >= blocks.length} onClick={removeBlocks}>
              Remove
            </TextAction>
          </>
        )}
      </Actions>
      <Choice label="Align to" value={to} options={["canvas", "each other"]} onChoose={setTo} />
      {ROWS.map((row) => (
        <div
          key={row[0]}
          className="grid grid-cols-[1fr_1fr_1fr_1.4fr] gap-0.5 py-0.5"
          role="group"
          aria-label={row === ROWS[0] ? "Arrange across" : "Arrange up"}
        >
          {row.map((how) => (
            <button
              key={how}
              type="button"
              className="h-[30px] border border-rule bg-sheet hover:bg-paper-recess pointer-coarse:min-h-10"
              onClick={() => arrange(how, to)}
            >
              {how}
            </button>
          ))}
        </div>
      ))}
    </Section>
  );
}
