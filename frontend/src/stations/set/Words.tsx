import { useId, useRef, useState } from "react";
import { liveNow, newGesture, useBlock, useLive } from "../../live/store";

/** What is typed is sent as it is typed; one spell of typing is one step of history. */
export function Words({ words }: { words: string }) {
  const path = `${useBlock().path}/words`;
  const { edit, rest } = liveNow();
  const fault = useLive((live) => live.faults[path]);
  const [text, setText] = useState<string | null>(null);
  const gesture = useRef("");
  const id = useId();
  return (
    <div className="text-field words">
      <label htmlFor={id}>Words</label>
      <textarea
        id={id}
        rows={3}
        aria-invalid={fault ? true : undefined}
        value={text ?? words}
        onFocus={() => {
          gesture.current = newGesture();
        }}
        onChange={(event) => {
          setText(event.target.value);
          edit([{ op: "replace", path, value: event.target.value }], {
            gesture: gesture.current,
            moving: true,
          });
          window.clearTimeout(Words.timer);
          Words.timer = window.setTimeout(rest, 250);
        }}
        onBlur={() => setText(null)}
      />
      {fault && (
        <span className="fault" role="alert">
          {fault}
        </span>
      )}
    </div>
  );
}
Words.timer = 0;
