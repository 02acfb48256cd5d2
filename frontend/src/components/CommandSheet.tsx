import { Dialog } from "radix-ui";
import { type KeyboardEvent, useState } from "react";
import { type Command, useCommands } from "../commands";
import { useDesk } from "../live/desk";

/** Everything there is to do, found by typing a few letters of it. */
export function CommandSheet() {
  const sheet = useDesk((desk) => desk.sheet);
  const openSheet = useDesk.getState().openSheet;
  return (
    <Dialog.Root open={sheet === "commands"} onOpenChange={(open) => openSheet(open ? "commands" : null)}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="sheet command-sheet" aria-describedby={undefined}>
          <Dialog.Title>What to do</Dialog.Title>
          <CommandList onDone={() => openSheet(null)} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function CommandList({ onDone }: { onDone: () => void }) {
  const [sought, setSought] = useState("");
  const [chosen, setChosen] = useState(0);
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean);
  const found = useCommands().filter(({ name }) => words.every((word) => name.toLowerCase().includes(word)));
  const at = Math.min(chosen, found.length - 1);

  function run(command: Command | undefined) {
    if (!command) return;
    onDone();
    // After the list has closed and given the focus back.
    setTimeout(command.run);
  }

  function onKeyDown(event: KeyboardEvent) {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step) {
      event.preventDefault();
      setChosen((at + step + found.length) % Math.max(found.length, 1));
    } else if (event.key === "Enter") run(found[at]);
  }

  return (
    <>
      <input
        type="text"
        className="command-input"
        role="combobox"
        aria-label="Find a command"
        aria-expanded="true"
        aria-controls="commands"
        aria-activedescendant={found[at] ? `command-${at}` : undefined}
        placeholder="Type a few letters: centre, duplicate, light …"
        value={sought}
        onChange={(event) => {
          setSought(event.target.value);
          setChosen(0);
        }}
        onKeyDown={onKeyDown}
      />
      <div id="commands" role="listbox" aria-label="Commands" className="commands">
        {found.map((command, i) => (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the keys are the input's, which keeps the focus
          <div
            key={command.name}
            id={`command-${i}`}
            role="option"
            tabIndex={-1}
            aria-selected={i === at}
            ref={(element) => {
              if (i === at) element?.scrollIntoView({ block: "nearest" });
            }}
            onClick={() => run(command)}
          >
            <span>{command.name}</span>
            {command.keys && <kbd>{command.keys}</kbd>}
          </div>
        ))}
        {found.length === 0 && (
          <p className="aside">Nothing is called that. Try a word of the trade, such as bevel, lamp or canvas.</p>
        )}
      </div>
    </>
  );
}
