import { deskNow, useDesk } from "../live/desk";
import { Kbd } from "../ui/Kbd";
import { SectionTitle } from "../ui/SectionTitle";
import { Sheet } from "../ui/Sheet";
import { type Context, nameOf, PLACES, printed } from "./command";
import { COMMANDS } from "./registry";
import { useCommandContext } from "./useCommandContext";

/** Keys that belong to a place on the screen rather than to a command. */
const OF_A_PLACE: readonly { place: string; keys: readonly [string, string][] }[] = [
  {
    place: "Numbers",
    keys: [
      ["↑ ↓", "one step up or down"],
      ["Shift", "with an arrow: ten steps"],
      ["Alt", "with an arrow: a tenth of a step"],
      ["Enter", "take what was typed: 12mm, 3/8in, 40+6"],
      ["Escape", "leave it as it was"],
    ],
  },
  {
    place: "Blocks on the stage",
    keys: [
      ["Tab", "go from block to block"],
      ["← ↑ → ↓", "move the picked blocks"],
      ["Enter", "open a block"],
      ["Shift+Enter", "pick a block too"],
      ["Shift+F10", "menu of the block"],
      ["Alt", "while dragging: without snapping"],
    ],
  },
  {
    place: "Drawing and points",
    keys: [
      ["Enter", "end the line; on a point: smooth or corner"],
      ["Backspace", "take the last point back"],
      ["Delete", "remove a point"],
      ["Alt", "while pulling a handle: leave the other where it is"],
    ],
  },
  {
    place: "Letters",
    keys: [
      ["← →", "in the row: go to a letter; on the stage: kern it"],
      ["Home, End", "first and last letter"],
    ],
  },
];

/** All keys on one sheet; it stays while they are tried. */
export function KeySheet() {
  const open = useDesk((desk) => desk.sheet === "keys");
  const context = useCommandContext();
  return (
    <Sheet open={open} onClose={() => deskNow().openSheet(null)} title="All keys">
      {context && PLACES.map((place) => <Keys key={place} title={place} keys={keysOf(place, context)} />)}
      {OF_A_PLACE.map(({ place, keys }) => (
        <Keys key={place} title={place} keys={keys} />
      ))}
    </Sheet>
  );
}

function keysOf(place: string, context: Context): [string, string][] {
  return COMMANDS.filter((command) => command.place === place).flatMap((command) =>
    command.keys ? [[printed(command.keys), nameOf(command, context)]] : [],
  );
}

function Keys({ title, keys }: { title: string; keys: readonly [string, string][] }) {
  if (keys.length === 0) return null;
  return (
    <section className="pt-3.5">
      <SectionTitle>{title}</SectionTitle>
      <dl>
        {keys.map(([key, what]) => (
          <div key={key + what} className="grid grid-cols-[130px_1fr] gap-2.5 py-0.5">
            <dt>
              <Kbd>{key}</Kbd>
            </dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}
