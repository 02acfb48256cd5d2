import { type KeyboardEvent, useId, useLayoutEffect, useRef, useState } from "react";
import type { FieldInfo } from "../api/client";
import { stride, useWalk } from "../components/nudging";
import { liveNow, newGesture, useLive } from "../live/store";
import { useDrag } from "../live/useDrag";
import { useField } from "../live/workshop";
import { Fault } from "../ui/Notes";
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
 * tenth; drag the label, or the rule under it within its comfortable range; double-click the label for the
 * default. The server reads what was typed.
 */
export function NumberField({ field = "", info: given, path, value: kept, label, spoken }: Props) {
  const known = useField(field);
  const info = given ?? known;
  const { edit, rest, forget } = liveNow();
  const fault = useLive((live) => live.faults[path]);
  const [text, setText] = useState<string | null>(null);
  const walk = useWalk();
  const id = useId();
  const input = useRef<HTMLInputElement>(null);
  // A number that changes while it is marked to be typed over stays marked: what is typed would be added to it.
  useLayoutEffect(() => {
    if (text === null && input.current === document.activeElement) input.current?.select();
  }, [kept]);
  const step = info?.step ?? 1;
  const per = spoken?.per ?? 1;
  const value = kept / per;
  const hold = useDrag({
    begin: () => ({ from: value, steps: 0 }),
    move(held, _, [dx], gesture) {
      const steps = Math.trunc(dx / PX_PER_STEP);
      if (steps === held.steps) return;
      held.steps = steps;
      set(held.from + steps * step, gesture, true);
    },
  });
  const slide = useRef("");
  if (!info) return null;
  const name = label ?? info.label;
  const unit = spoken?.unit ?? (info.unit === "/1000 em" ? "‰ em" : info.unit);
  const [low, high] = [info.comfort[0] / per, info.comfort[1] / per];

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
      const size = step * stride(event);
      setText(null);
      const { to, gesture } = walk(value, event.key === "ArrowUp" ? size : -size);
      set(to, gesture, false);
    }
  }

  return (
    <div className="group/number min-w-0 pt-1 pb-2" data-field={path}>
      <div className="flex flex-wrap items-baseline justify-between gap-x-1">
        <label
          htmlFor={id}
          title="Drag to change, double-click to reset"
          className="min-w-0 cursor-ew-resize touch-none py-[3px] select-none group-focus-within/number:font-semibold group-focus-within/number:text-verdigris"
          {...hold(undefined)}
          onDoubleClick={() => info.default !== null && set(info.default / per, newGesture(), false)}
        >
          {name}
        </label>
        <span
          className={`-mr-[5px] ml-auto flex min-w-0 items-baseline gap-[3px] rounded-sheet border-2 px-[3px] py-px focus-within:border-verdigris focus-within:bg-sheet ${fault ? "border-madder" : "border-transparent"}`}
        >
          <input
            id={id}
            ref={input}
            inputMode="decimal"
            autoComplete="off"
            spellCheck={false}
            className="field-sizing-content max-w-[110px] min-w-6 bg-transparent text-right text-value font-[650] outline-none"
            value={text ?? shown(value)}
            aria-invalid={fault ? true : undefined}
            aria-describedby={fault ? `${id}-fault` : `${id}-unit`}
            onFocus={(event) => event.currentTarget.select()}
            onChange={(event) => setText(event.target.value)}
            onKeyDown={onKeyDown}
            onBlur={commit}
          />
          <span id={`${id}-unit`} className="text-small whitespace-nowrap text-ink-3">
            {unit}
          </span>
        </span>
      </div>
      <RangeRule
        label={`${name}, within its usual range`}
        value={value}
        low={low}
        high={high}
        step={step}
        onBegin={() => {
          slide.current = newGesture();
        }}
        onSlide={(to) => set(to, slide.current, true)}
        onEnd={rest}
      />
      {fault && <Fault id={`${id}-fault`}>{fault}</Fault>}
    </div>
  );
}
