import { useRef } from "react";
import { HexColorPicker } from "react-colorful";
import { PaintRow } from "../components/PaintRow";
import { paintOf, referenceTo, usePaints } from "../live/paints";
import { liveNow, newGesture, useLive } from "../live/store";
import { Field } from "../ui/Field";
import { Popover } from "../ui/Popover";
import { Actions } from "../ui/Rows";
import { Swatch } from "../ui/Swatch";
import { TextAction } from "../ui/TextAction";

interface Dropper {
  open: () => Promise<{ sRGBHex: string }>;
}

/** A browser's own way to pick a colour from anything on the screen, where it has one. */
const dropperOf = () => (window as { EyeDropper?: new () => Dropper }).EyeDropper;

/** A colour as a swatch that opens a picker and the piece's paints, with it or any way to write one typed beside it. */
export function ColourField({ label, path, value }: { label: string; path: string; value: string }) {
  const { edit, rest } = liveNow();
  const fault = useLive((live) => live.faults[path]);
  const paints = usePaints();
  const gesture = useRef("");
  const paint = paintOf(value, paints);
  const colour = paint?.colour ?? value;
  const others = path.startsWith("/paints/") ? [] : paints;
  const Picked = dropperOf();
  const put = (typed: string) => typed && edit([{ op: "enter", path, value: typed }]);
  const write = (next: string) => edit([{ op: "replace", path, value: next }]);

  async function pickFromScreen() {
    // Escape ends it without a colour.
    const picked = Picked && (await new Picked().open().catch(() => null));
    if (picked) write(picked.sRGBHex);
  }

  return (
    <Field label={label} value={paint?.name ?? value} fault={fault} onEnter={put}>
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
            <Swatch of="field" colour={colour} />
          </button>
        }
      >
        <HexColorPicker
          color={colour}
          onChange={(next) => edit([{ op: "replace", path, value: next }], { gesture: gesture.current, moving: true })}
          onPointerUp={rest}
        />
        {others.length > 0 && (
          <PaintRow
            label="Take a paint"
            className="max-w-50 pt-2"
            paints={others}
            chosen={paint}
            onChoose={(other) => write(referenceTo(other))}
          />
        )}
        <Actions>
          {Picked && <TextAction onClick={() => void pickFromScreen()}>Pick from the picture</TextAction>}
          {!paint && !path.startsWith("/paints/") && (
            <TextAction onClick={() => edit([{ op: "paint", path, value: label }])}>Make it a paint</TextAction>
          )}
        </Actions>
      </Popover>
    </Field>
  );
}
