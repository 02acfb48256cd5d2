import { type KeyboardEvent, type PointerEvent, useId, useLayoutEffect, useRef, useState } from "react";
import type { FieldInfo } from "../api/client";
import { liveNow, newGesture, useLive } from "../live/store";
import { useField } from "../live/workshop";
import { stride, useWalk } from "./nudging";
import { RangeRule } from "./RangeRule";

interface Props {
  /** `Model.name` of the field in the document's schema: its label, unit, comfortable range and step come from there. */
  field?: string;
  /** The same, where no schema knows it. */
  info?: FieldInfo;
  /** JSON Pointer of the value in the document. */
  path: string;
  value: number;
  label?: string;
  /** Where the number is spoken of in another unit than it is kept in: that unit, and how much of what is kept it has. */
  spoken?: { unit: string; per: number };
}

const PX_PER_STEP = 3;

/** Shows a number as it stands: no needless digits, a true minus sign. */
export function shown(value: number): string {
  return String(Number(value.toFixed(2))).replace("-", "−");
}

/**
 * The one number field. Type a number, a unit or a sum; arrows nudge by a step, Shift by ten, Alt by a
 * tenth; drag the label; double-click it for the default. The server reads what was typed.
 */
export function NumberField({ field = "", info: given, path, value: kept, label, spoken }: Props) {
  const known = useField(field);
  const info = given ?? known;
  const { edit, rest, forget } = liveNow();
  const fault = useLive((live) => live.faults[path]);
  const [text, setText] = useState<string | null>(null);
  const drag = useRef<{ x: number; from: number; gesture: string; moved: boolean } | null>(null);
  const walk = useWalk();
  const id = useId();
  const input = useRef<HTMLInputElement>(null);
  // A number that changes while it is marked to be typed over stays marked: what is typed would be added to it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: on every new value
  useLayoutEffect(() => {
    if (text === null && input.current === document.activeElement) input.current?.select();
  }, [kept]);
  if (!info) return null;
  const name = label ?? info.label;
  const per = spoken?.per ?? 1;
  const value = kept / per;
  const unit = spoken?.unit ?? (info.unit === "/1000 em" ? "‰ em" : info.unit);

  function set(to: number, gesture: string, moving: boolean) {
    forget(path);
    edit([{ op: "replace", path, value: spoken ? Math.round(to * per) : Number(to.toFixed(4)) }], { gesture, moving });
  }

  function commit() {
    if (text !== null && text !== shown(value)) edit([{ op: "enter", path, value: text }]);
    else forget(path);
    setText(null);
  }

  function onKeyDown(event: KeyboardEvent<HTMLInputElement>) {
    if (event.key === "Enter") {
      commit();
    } else if (event.key === "Escape") {
      setText(null);
      forget(path);
    } else if (event.key === "ArrowUp" || event.key === "ArrowDown") {
      event.preventDefault();
      const size = (info?.step ?? 1) * stride(event);
      setText(null);
      const { to, gesture } = walk(value, event.key === "ArrowUp" ? size : -size);
      set(to, gesture, false);
    }
  }

  function onPointerDown(event: PointerEvent<HTMLLabelElement>) {
    event.currentTarget.setPointerCapture(event.pointerId);
    drag.current = { x: event.clientX, from: value, gesture: newGesture(), moved: false };
  }

  function onPointerMove(event: PointerEvent<HTMLLabelElement>) {
    const held = drag.current;
    if (!held || !info) return;
    const steps = Math.trunc((event.clientX - held.x) / PX_PER_STEP);
    if (!steps && !held.moved) return;
    held.moved = true;
    set(held.from + steps * info.step, held.gesture, true);
  }

  function onPointerUp() {
    if (drag.current?.moved) rest();
    drag.current = null;
  }

  return (
    <div className={`number-field${fault ? " at-fault" : ""}`}>
      <div className="number-row">
        <label
          htmlFor={id}
          title="Drag to change, double-click for the default"
          onPointerDown={onPointerDown}
          onPointerMove={onPointerMove}
          onPointerUp={onPointerUp}
          onDoubleClick={() => info.default !== null && set(info.default / per, newGesture(), false)}
        >
          {name}
        </label>
        <span className="number-value">
          <input
            id={id}
            ref={input}
            inputMode="decimal"
            autoComplete="off"
            spellCheck={false}
            value={text ?? shown(value)}
            aria-invalid={fault ? true : undefined}
            aria-describedby={fault ? `${id}-fault` : `${id}-unit`}
            onFocus={(event) => event.currentTarget.select()}
            onChange={(event) => setText(event.target.value)}
            onKeyDown={onKeyDown}
            onBlur={commit}
          />
          <span id={`${id}-unit`} className="unit">
            {unit}
          </span>
        </span>
      </div>
      <RangeRule value={value} low={info.comfort[0] / per} high={info.comfort[1] / per} />
      {fault && (
        <p id={`${id}-fault`} className="fault" role="alert">
          {fault}
        </p>
      )}
    </div>
  );
}
