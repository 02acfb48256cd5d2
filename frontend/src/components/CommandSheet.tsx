import { type KeyboardEvent, useState } from "react";
import { type Command, useCommands } from "../commands";
import { deskNow } from "../live/desk";
import { Sheet } from "./Sheet";

/** Everything there is to do, found by typing a few letters of it. */
export function CommandSheet() {
  return (
    <Sheet name="commands" title="What to do">
      <CommandList onDone={() => deskNow().openSheet(null)} />
    </Sheet>
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
