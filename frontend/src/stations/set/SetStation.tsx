import { useId, useRef, useState } from "react";
import { Choice } from "../../components/Choice";
import { Advice, Group } from "../../components/Group";
import { NumberField } from "../../components/NumberField";
import { newGesture, useDocument, useLive } from "../../live/store";
import { useWorkshop } from "../../live/workshop";

/** The words, their typeface and their measures; the canvas they stand on. */
export function SetStation() {
  const { blocks, canvas } = useDocument();
  const edit = useLive.getState().edit;
  const workshop = useWorkshop();
  const block = blocks[0];
  const axes = workshop?.typefaces.find((face) => face.id === block.typeface)?.axes ?? [];
  return (
    <>
      <Words words={block.words} />
      <Advice station="set" />
      <Group title="Typeface">
        <ul className="typefaces">
          {workshop?.typefaces.map((face) => (
            <li key={face.id}>
              <button
                type="button"
                aria-pressed={face.id === block.typeface}
                onClick={() => edit([{ op: "replace", path: "/blocks/0/typeface", value: face.id }])}
              >
                <span>{face.name}</span>
                <small>{face.axes.length ? `${face.kind}, variable` : face.kind}</small>
              </button>
            </li>
          ))}
        </ul>
        {axes.map((axis) => (
          <AxisField key={axis.tag} {...axis} value={block.axes?.[axis.tag] ?? axis.default} />
        ))}
      </Group>
      <Group title="Measures">
        <div className="pair">
          <NumberField field="Lettering.size" path="/blocks/0/size" value={block.size} />
          <NumberField field="Lettering.tracking" path="/blocks/0/tracking" value={block.tracking} />
          <NumberField field="Lettering.leading" path="/blocks/0/leading" value={block.leading} />
          <NumberField field="Place.x" path="/blocks/0/place/x" value={block.place.x} />
          <NumberField field="Place.y" path="/blocks/0/place/y" value={block.place.y} />
          <NumberField field="Place.z" path="/blocks/0/place/z" value={block.place.z} />
        </div>
        <Choice
          label="Align"
          value={block.align}
          options={["left", "centre", "right"]}
          onChoose={(align) => edit([{ op: "replace", path: "/blocks/0/align", value: align }])}
        />
      </Group>
      <Group title="Canvas">
        <div className="pair">
          <NumberField field="Canvas.width" path="/canvas/width" value={canvas.width} />
          <NumberField field="Canvas.height" path="/canvas/height" value={canvas.height} />
          <NumberField field="Canvas.ppi" path="/canvas/ppi" value={canvas.ppi} />
        </div>
      </Group>
    </>
  );
}

/** What is typed is sent as it is typed; one spell of typing is one step of history. */
function Words({ words }: { words: string }) {
  const { edit, rest } = useLive.getState();
  const fault = useLive((live) => live.faults["/blocks/0/words"]);
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
          edit([{ op: "replace", path: "/blocks/0/words", value: event.target.value }], {
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

interface AxisProps {
  tag: string;
  name: string;
  minimum: number;
  maximum: number;
  value: number;
}

function AxisField({ tag, name, minimum, maximum, value }: AxisProps) {
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
          edit([{ op: "add", path: `/blocks/0/axes/${tag}`, value: Number(event.target.value) }], {
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
