import type { KeyboardEvent } from "react";
import type { LetteringBlock, PieceState } from "../api/client";
import { stride, useWalk } from "../components/nudging";
import { shown } from "../fields/NumberField";
import { deskNow, useDesk } from "../live/desk";
import { liveNow } from "../live/store";
import { useDrag } from "../live/useDrag";
import { NumberBeside } from "./NumberBeside";
import { canvasPoint, closedPath, cornersOf, ontoCanvas, ontoFace } from "./plane";

/** One press of an arrow key, in 1/1000 em. */
const STEP = 5;

interface Props {
  block: LetteringBlock;
  path: string;
  drawing: PieceState["drawings"]["blocks"][number];
  unit: number;
}

/** Letters one by one on the stage: drag one away from the letter before it, or nudge it with the arrow keys; that is kerning. */
export function LetterTool({ block, path, drawing, unit }: Props) {
  const { edit } = liveNow();
  const chosen = useDesk((desk) => desk.letter);
  const { pickLetter } = deskNow();
  const walk = useWalk();
  const words = Array.from(block.words);
  const letters = [...drawing.letters].sort((a, b) => a.box[0] - b.box[0]);

  /** The pair that a letter is kerned in: with its neighbour in the words that stands to its left. */
  function pairOf(letter: number): number | null {
    const own = letters.find((entry) => entry.letter === letter);
    const before = letters.filter((entry) => Math.abs(entry.letter - letter) === 1 && own && entry.box[0] < own.box[0]).at(-1);
    return before ? Math.min(before.letter, letter) : null;
  }

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
    <g className="letter-tool">
      {letters.map(({ letter, box }) => (
        <path
          key={letter}
          className={letter === chosen ? "letter-frame picked" : "letter-frame"}
          d={closedPath(cornersOf(box).map((corner) => ontoCanvas(drawing.plane, corner)))}
          strokeWidth={1.2 * unit}
          tabIndex={0}
          role="button"
          aria-pressed={letter === chosen}
          aria-label={`Letter ${words[letter]}, ${letter + 1}. Left and right arrow keys kern it.`}
          onFocus={() => pickLetter(letter)}
          {...hold(letter)}
          onKeyDown={(event) => onKeyDown(event, letter)}
        />
      ))}
      {picked && pair !== null && (
        <NumberBeside at={ontoCanvas(drawing.plane, [picked.box[0], picked.box[1]])} unit={unit}>
          {`${words[pair]}${words[pair + 1]} ${shown(kernOf(pair))}`}
        </NumberBeside>
      )}
    </g>
  );
}
