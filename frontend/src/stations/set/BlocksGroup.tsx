import { useState } from "react";
import { arrange, centre, groupBlocks, type How, removeBlocks, reorder, switchBlocks } from "../../components/acts";
import { blockName } from "../../components/blockName";
import { Choice } from "../../components/Choice";
import { Group } from "../../components/Group";
import { deskNow, useDesk } from "../../live/desk";
import { useBlock, useDocument } from "../../live/store";

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
    <Group
      title="Blocks"
      help="Everything in the piece. Tick several blocks to move, align or group them together; on the stage, hold Shift and click."
      actions={
        <button type="button" className="text-action" onClick={centre}>
          Centre on the canvas
        </button>
      }
    >
      <ul className="block-list">
        {blocks.map((entry, at) => (
          <li key={entry.id} data-open={at === index || undefined}>
            <input
              type="checkbox"
              aria-label={`Pick ${blockName(entry)} too`}
              checked={picked.includes(at)}
              disabled={at === index}
              onChange={() => pickAlso(at)}
            />
            <button type="button" aria-pressed={at === index} onClick={() => openBlock(at)}>
              {blockName(entry)}
              <small>
                {[entry.hidden && "hidden", entry.guide && "guide", entry.locked && "locked", entry.group]
                  .filter(Boolean)
                  .join(", ")}
              </small>
            </button>
          </li>
        ))}
      </ul>
      <div className="row-actions">
        <button type="button" className="text-action" onClick={() => switchBlocks("locked", !block.locked)}>
          {block.locked ? "Unlock" : "Lock"}
        </button>
        <button type="button" className="text-action" onClick={() => switchBlocks("hidden", !block.hidden)}>
          {block.hidden ? "Show" : "Hide"}
        </button>
        {(picked.length > 1 || block.group) && (
          <button type="button" className="text-action" onClick={() => groupBlocks(!block.group)}>
            {block.group ? "Ungroup" : "Group"}
          </button>
        )}
        {blocks.length > 1 && (
          <>
            <button type="button" className="text-action" disabled={index === 0} onClick={() => reorder(-1)}>
              Earlier
            </button>
            <button type="button" className="text-action" disabled={index === blocks.length - 1} onClick={() => reorder(1)}>
              Later
            </button>
            <button type="button" className="text-action" disabled={picked.length >= blocks.length} onClick={removeBlocks}>
              Remove
            </button>
          </>
        )}
      </div>
      <Choice label="Align to" value={to} options={["canvas", "each other"]} onChoose={setTo} />
      {ROWS.map((row) => (
        <div key={row[0]} className="ways" role="group" aria-label={row === ROWS[0] ? "Arrange across" : "Arrange up"}>
          {row.map((how) => (
            <button key={how} type="button" onClick={() => arrange(how, to)}>
              {how}
            </button>
          ))}
        </div>
      ))}
    </Group>
  );
}
