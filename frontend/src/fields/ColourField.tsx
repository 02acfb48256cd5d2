import { useRef } from "react";
import { HexColorPicker } from "react-colorful";
import { liveNow, newGesture, useLive } from "../live/store";
import { Field } from "../ui/Field";
import { Popover } from "../ui/Popover";
import { Swatch } from "../ui/Swatch";

/** A colour as a swatch that opens a picker, with its #rrggbb, or any way to write one, typed beside it. */
export function ColourField({ label, path, value }: { label: string; path: string; value: string }) {
  const { edit, rest } = liveNow();
  const fault = useLive((live) => live.faults[path]);
  const gesture = useRef("");
  const put = (typed: string) => typed && edit([{ op: "enter", path, value: typed }]);
  return (
    <Field label={label} value={value} fault={fault} onEnter={put}>
      <Popover
        label={label}
        side="left"
        align="start"
        sideOffset={8}
        onOpenChange={(open) => {
          if (open) gesture.current = newGesture();
        }}
        trigger={
          <button type="button" className="flex" aria-label={`Pick ${label.toLowerCase()}`}>
            <Swatch of="field" colour={value} />
          </button>
        }
      >
        <HexColorPicker
          color={value}
          onChange={(next) => edit([{ op: "replace", path, value: next }], { gesture: gesture.current, moving: true })}
          onPointerUp={rest}
        />
      </Popover>
    </Field>
  );
}
