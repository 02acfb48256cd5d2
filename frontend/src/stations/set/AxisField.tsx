import { useRef } from "react";
import { newGesture, useBlock, useLive } from "../../live/store";

interface AxisProps {
  tag: string;
  name: string;
  minimum: number;
  maximum: number;
  value: number;
}

/** A variable axis of the typeface. */
export function AxisField({ tag, name, minimum, maximum, value }: AxisProps) {
  const { path } = useBlock();
  const { edit, rest } = useLive.getState();
  const gesture = useRef("");
  return (
    <label className="axis">
      <span>{name}</span>
      <input
        type="range"
        min={minimum}
        max={maximum}
        value={value}
        onPointerDown={() => {
          gesture.current = newGesture();
        }}
        onChange={(event) =>
          edit([{ op: "add", path: `${path}/axes/${tag}`, value: Number(event.target.value) }], {
            gesture: gesture.current || tag,
            moving: true,
          })
        }
        onPointerUp={rest}
        onKeyUp={rest}
      />
      <b>{Math.round(value)}</b>
    </label>
  );
}
