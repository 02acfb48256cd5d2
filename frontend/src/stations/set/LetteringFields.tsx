import type { LetteringBlock } from "../../api/client";
import { Choice } from "../../components/Choice";
import { Advice, Group } from "../../components/Group";
import { NumberField } from "../../components/NumberField";
import { useLive } from "../../live/store";
import { useWorkshop } from "../../live/workshop";
import { AxisField } from "./AxisField";
import { Features } from "./Features";
import { OwnTypeface } from "./OwnTypeface";
import { SingleLetters } from "./SingleLetters";
import { Words } from "./Words";

/** The words, their typeface and their measures. */
export function LetteringFields({ block, path }: { block: LetteringBlock; path: string }) {
  const edit = useLive.getState().edit;
  const typefaces = useWorkshop()?.typefaces;
  const face = typefaces?.find((entry) => entry.id === block.typeface);
  const axes = face?.axes ?? [];
  return (
    <>
      <Words words={block.words} />
      <Advice station="set" />
      <Group title="Typeface" actions={<OwnTypeface path={path} />}>
        <ul className="typefaces">
          {typefaces?.map((face) => (
            <li key={face.id}>
              <button
                type="button"
                aria-pressed={face.id === block.typeface}
                onClick={() => edit([{ op: "replace", path: `${path}/typeface`, value: face.id }])}
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
      <Features block={block} path={path} features={face?.features ?? []} />
      <Group title="Measures">
        <div className="pair">
          <NumberField field="Lettering.size" path={`${path}/size`} value={block.size} />
          <NumberField field="Lettering.tracking" path={`${path}/tracking`} value={block.tracking} />
          <NumberField field="Lettering.leading" path={`${path}/leading`} value={block.leading} />
        </div>
        <Choice
          label="Align"
          value={block.align}
          options={["left", "centre", "right"]}
          onChoose={(align) => edit([{ op: "replace", path: `${path}/align`, value: align }])}
        />
      </Group>
      <SingleLetters block={block} path={path} />
    </>
  );
}
