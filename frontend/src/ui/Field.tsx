import { type ReactNode, useId, useState } from "react";
import { Fault } from "./Notes";

interface Props {
  label: string;
  value: string;
  fault: string | undefined;
  /** What was typed, on Enter or when the field is left; not for what was there before. */
  onEnter: (typed: string) => void;
  /** The entry was left as it was. */
  onKeep?: () => void;
  /** What stands between label and entry. */
  children?: ReactNode;
}

/** A label and a short entry in one row, and under it why the entry was refused. */
export function Field({ label, value, fault, onEnter, onKeep, children }: Props) {
  const [text, setText] = useState<string | null>(null);
  const id = useId();

  function commit() {
    const typed = text?.trim();
    if (typed !== undefined && typed !== value) onEnter(typed);
    else onKeep?.();
    setText(null);
  }

  return (
    <div className="grid grid-cols-[1fr_auto_84px] items-center gap-2 py-[5px]">
      <label htmlFor={id} className={children ? "" : "col-span-2"}>
        {label}
      </label>
      {children}
      <input
        id={id}
        className={`w-full rounded-sheet border bg-sheet px-1.5 py-[3px] font-semibold ${fault ? "border-madder" : "border-rule-firm"}`}
        spellCheck={false}
        autoComplete="off"
        value={text ?? value}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => event.key === "Enter" && commit()}
        onBlur={commit}
      />
      {fault && <Fault>{fault}</Fault>}
    </div>
  );
}
