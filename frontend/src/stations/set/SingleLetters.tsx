import { Fragment, type KeyboardEvent, useRef } from "react";
import type { LetteringBlock } from "../../api/client";
import { CommandAction } from "../../commands/CommandAction";
import { CommandItems } from "../../commands/CommandItems";
import { pickedAmong } from "../../components/letterActs";
import { NumberField } from "../../fields/NumberField";
import { deskNow, useDesk } from "../../live/desk";
import { useBlock, useLive } from "../../live/store";
import { ContextMenu } from "../../ui/Menu";
import { Actions, Columns } from "../../ui/Rows";
import { Section } from "../../ui/Section";
import { TextAction } from "../../ui/TextAction";
import { EveningProposal } from "./EveningProposal";
import { MaterialChoice } from "./MaterialChoice";

/** What a letter has that is set like all others. */
const PLAIN = { size: 100, shift: 0, turn: 0, kern: 0 };

/** One letter of the words at a time: its size, its place on the line, its turn, and the space to the next one. */
export function SingleLetters({ block, path }: { block: LetteringBlock; path: string }) {
  const { index: open } = useBlock();
  const letters = useLive((live) => live.piece?.drawings.blocks[open]?.letters) ?? [];
  const chosen = useDesk((desk) => desk.letter);
  const tool = useDesk((desk) => desk.tool);
  const { pickLetter, take } = deskNow();
  const row = useRef<HTMLDivElement>(null);
  const at = pickedAmong(letters, chosen);
  const picked = letters[at];
  if (!picked) return null;
  const { letter: index, text } = picked;
  const own = block.letters?.[index];
  const setting = { ...PLAIN, ...own };
  const after = letters[at + 1];
  const next = after && !after.starts ? after.text : null;

  function onKeyDown(event: KeyboardEvent) {
    const to = { ArrowLeft: at - 1, ArrowRight: at + 1, Home: 0, End: letters.length - 1 }[event.key];
    const letter = to === undefined ? undefined : letters[to];
    if (to === undefined || !letter) return;
    event.preventDefault();
    pickLetter(letter.letter);
    row.current?.querySelectorAll("button")[to]?.focus();
  }

  return (
    <Section
      title="Single letters"
      help="Size, position, turn and material of a single letter, and the space to the next. They stay with the letter when the words or the typeface change."
      actions={
        <TextAction aria-pressed={tool === "letters"} onClick={() => take(tool === "letters" ? null : "letters")}>
          Kern on the stage
        </TextAction>
      }
    >
      <div data-part="letters" className="pb-2" role="radiogroup" aria-label="Letter" ref={row} onKeyDown={onKeyDown}>
        {letters.map((letter, number) => (
          <Fragment key={letter.letter}>
            {letter.starts === "line" && <br />}
            <ContextMenu
              onOpen={() => pickLetter(letter.letter)}
              trigger={
                <button
                  type="button"
                  role="radio"
                  aria-checked={number === at}
                  aria-label={`${letter.text}, letter ${letter.letter + 1}${block.letters?.[letter.letter] ? ", set by itself" : ""}`}
                  tabIndex={number === at ? 0 : -1}
                  className={`relative mr-0.5 mb-0.5 h-[30px] min-w-[26px] border border-rule bg-sheet px-[5px] hover:bg-paper-recess aria-checked:border-verdigris aria-checked:font-bold aria-checked:shadow-[inset_0_-3px_var(--color-verdigris)] data-own:after:absolute data-own:after:top-[3px] data-own:after:right-[3px] data-own:after:size-[5px] data-own:after:rounded-full data-own:after:bg-madder pointer-coarse:min-h-10 ${letter.starts === "word" ? "ml-3" : ""}`}
                  data-own={block.letters?.[letter.letter] ? true : undefined}
                  onClick={() => pickLetter(letter.letter)}
                >
                  {letter.text}
                </button>
              }
            >
              <CommandItems ids={["unkern", "plain-letter", "kern"]} />
            </ContextMenu>
          </Fragment>
        ))}
      </div>
      <Columns>
        <NumberField field="LetterSetting.size" path={`${path}/letters/${index}/size`} value={setting.size} />
        <NumberField field="LetterSetting.shift" path={`${path}/letters/${index}/shift`} value={setting.shift} />
        <NumberField field="LetterSetting.turn" path={`${path}/letters/${index}/turn`} value={setting.turn} />
        {next && (
          <NumberField
            field="LetterSetting.kern"
            label={`Kern ${text} ${next}`}
            path={`${path}/letters/${index}/kern`}
            value={setting.kern}
          />
        )}
      </Columns>
      <MaterialChoice label="Material" path={`${path}/letters/${index}/material`} material={own?.material} />
      <Actions>
        {own && <CommandAction id="plain-letter">Set like the others</CommandAction>}
        <EveningProposal block={block.id} />
      </Actions>
    </Section>
  );
}
