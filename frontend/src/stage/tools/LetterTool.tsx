import type { KeyboardEvent } from "react";
import type { BlockDrawing, LetteringBlock } from "../../api/client";
import { CommandItems } from "../../commands/CommandItems";
import { stride, useWalk } from "../../components/nudging";
import { shown } from "../../fields/NumberField";
import { deskNow, useDesk } from "../../live/desk";
import { liveNow } from "../../live/store";
import { useDrag } from "../../live/useDrag";
import { ContextMenu } from "../../ui/Menu";
import { NumberBeside } from "../NumberBeside";
import { canvasPoint, closedPath, cornersOf, ontoCanvas, ontoFace } from "../plane";

/** One press of an arrow key, in 1/1000 em. */
const STEP = 5;

interface Props {
  block: LetteringBlock;
  path: string;
  drawing: BlockDrawing;
  unit: number;
}

/** Letters one by one on the stage: drag one away from the letter before it, or nudge it with the arrow keys; that is kerning. */
export function LetterTool({ block, path, drawing, unit }: Props) {
  const { edit } = liveNow();
  const chosen = useDesk((desk) => desk.letter);
  const { pickLetter } = deskNow();
  const walk = useWalk();
  const letters = drawing.letters.flatMap((letter) => (letter.box ? [{ ...letter, box: letter.box }] : []));
  const pairOf = (letter: number) => letters.find((entry) => entry.letter === letter)?.kerned ?? null;
  const textOf = (letter: number) => letters.find((entry) => entry.letter === letter)?.text ?? "";

  const kernOf = (at: number) => block.letters?.[at]?.kern ?? 0;

  function kern(at: number, to: number, gesture: string, moving: boolean) {
    edit([{ op: "replace", path: `${path}/letters/${at}/kern`, value: Number(to.toFixed(1)) }], { gesture, moving });
  }

  const hold = useDrag({
    threshold: 0,
    begin(event, letter: number) {
      pickLetter(letter);
      const pair = pairOf(letter);
      return pair === null ? null : { pair, from: ontoFace(drawing.plane, canvasPoint(event))[0], kern: kernOf(pair) };
    },
    move(held, event, _, gesture) {
      const here = ontoFace(drawing.plane, canvasPoint(event))[0];
      kern(held.pair, held.kern + ((here - held.from) / block.size) * 1000, gesture, true);
    },
  });

  function onKeyDown(event: KeyboardEvent, letter: number) {
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    const pair = pairOf(letter);
    if (!way || pair === null) return;
    event.preventDefault();
    const { to, gesture } = walk(kernOf(pair), way * STEP * stride(event));
    kern(pair, to, gesture, false);
  }

  const picked = letters.find((entry) => entry.letter === chosen);
  const pair = picked ? pairOf(picked.letter) : null;
  return (
    <g>
      {letters.map(({ letter, text, box }) => (
        <ContextMenu
          key={letter}
          onOpen={() => pickLetter(letter)}
          trigger={
            <path
              data-part="letter-frame"
              className="pointer-events-auto cursor-ew-resize touch-none fill-transparent stroke-sheet/70 focus-visible:outline-2 focus-visible:outline-offset-3 focus-visible:outline-verdigris aria-pressed:stroke-sheet"
              d={closedPath(cornersOf(box, drawing.plane))}
              strokeWidth={1.2 * unit}
              tabIndex={0}
              role="button"
              aria-pressed={letter === chosen}
              aria-label={`Letter ${text}, ${letter + 1}. Left and right arrow keys kern it.`}
              onFocus={() => pickLetter(letter)}
              {...hold(letter)}
              onKeyDown={(event) => onKeyDown(event, letter)}
            />
          }
        >
          <CommandItems ids={["unkern", "plain-letter", "-", "put-down"]} />
        </ContextMenu>
      ))}
      {picked && pair !== null && (
        <NumberBeside at={ontoCanvas(drawing.plane, [picked.box[0], picked.box[1]])} unit={unit}>
          {`${textOf(pair)}${textOf(pair + 1)} ${shown(kernOf(pair))}`}
        </NumberBeside>
      )}
    </g>
  );
}
