import { useId, useRef, useState } from "react";
import { liveNow, newGesture, useBlock, useLive } from "../../live/store";
import { Fault } from "../../ui/Notes";

/** What is typed is sent as it is typed; one spell of typing is one step of history. */
export function Words({ words }: { words: string }) {
  const path = `${useBlock().path}/words`;
  const { edit, rest } = liveNow();
  const fault = useLive((live) => live.faults[path]);
  const [text, setText] = useState<string | null>(null);
  const gesture = useRef("");
  const id = useId();
  return (
    <div className="text-small text-ink-2">
      <label htmlFor={id}>Words</label>
      <textarea
        id={id}
        rows={3}
        className="mt-[3px] block w-full resize-y rounded-sheet border border-rule-firm bg-sheet px-2 py-[5px] text-value font-semibold text-ink"
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
      {fault && <Fault>{fault}</Fault>}
    </div>
  );
}
Words.timer = 0;
