import { Popover } from "radix-ui";
import { useId, useRef, useState } from "react";
import { HexColorPicker } from "react-colorful";
import { liveNow, newGesture, useLive } from "../live/store";

/** A colour as a swatch that opens a picker, with its #rrggbb typed beside it. */
export function ColourField({ label, path, value }: { label: string; path: string; value: string }) {
  const { edit, rest } = liveNow();
  const fault = useLive((live) => live.faults[path]);
  const [text, setText] = useState<string | null>(null);
  const gesture = useRef("");
  const id = useId();

  function commit() {
    const typed = text?.trim();
    if (typed && typed !== value) edit([{ op: "replace", path, value: typed.startsWith("#") ? typed : `#${typed}` }]);
    setText(null);
  }

  return (
    <div className={`colour-field${fault ? " at-fault" : ""}`}>
      <label htmlFor={id}>{label}</label>
      <Popover.Root
        onOpenChange={(open) => {
          if (open) gesture.current = newGesture();
        }}
      >
        <Popover.Trigger className="swatch" aria-label={`Pick ${label.toLowerCase()}`} style={{ background: value }} />
        <Popover.Portal>
          <Popover.Content className="popover" side="left" align="start" sideOffset={8} aria-label={label}>
            <HexColorPicker
              color={value}
              onChange={(next) => edit([{ op: "replace", path, value: next }], { gesture: gesture.current, moving: true })}
              onPointerUp={rest}
            />
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
      <input
        id={id}
        className="hex"
        spellCheck={false}
        autoComplete="off"
        value={text ?? value}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => event.key === "Enter" && commit()}
        onBlur={commit}
      />
      {fault && (
        <p className="fault" role="alert">
          {fault}
        </p>
      )}
    </div>
  );
}
