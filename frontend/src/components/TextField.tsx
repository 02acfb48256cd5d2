import { useId, useState } from "react";
import { liveNow, useLive } from "../live/store";

/** A short text of the document, such as a name. */
export function TextField({ label, path, value }: { label: string; path: string; value: string }) {
  const { edit, forget } = liveNow();
  const fault = useLive((live) => live.faults[path]);
  const [text, setText] = useState<string | null>(null);
  const id = useId();

  function commit() {
    if (text !== null && text !== value) edit([{ op: "replace", path, value: text }]);
    else forget(path);
    setText(null);
  }

  return (
    <div className={`colour-field${fault ? " at-fault" : ""}`}>
      <label htmlFor={id}>{label}</label>
      <input
        id={id}
        className="hex"
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
