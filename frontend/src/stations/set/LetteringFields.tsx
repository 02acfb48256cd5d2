import type { LetteringBlock } from "../../api/client";
import { Choice } from "../../components/Choice";
import { Advice, Group } from "../../components/Group";
import { NumberField } from "../../fields/NumberField";
import { liveNow } from "../../live/store";
import { useWorkshop } from "../../live/workshop";
import { AlongFold } from "./AlongFold";
import { AxisField } from "./AxisField";
import { Features } from "./Features";
import { SingleLetters } from "./SingleLetters";
import { TypefaceBrowser } from "./TypefaceBrowser";
import { Words } from "./Words";

/** The words, their typeface and their measures. */
export function LetteringFields({ block, path }: { block: LetteringBlock; path: string }) {
  const edit = liveNow().edit;
  const face = useWorkshop()?.typefaces.find((entry) => entry.id === block.typeface);
  return (
    <>
      <Words words={block.words} />
      <Advice station="set" />
      <Group
        title="Typeface"
        help="Open the list to see your own words as quick solids in the form they have now, in every typeface. Heaviness is the width of a stem against the height of a capital."
      >
        <TypefaceBrowser block={block} path={path} />
        <div className="pair">
          {face?.axes.map((axis) => (
            <AxisField key={axis.tag} {...axis} value={block.axes?.[axis.tag] ?? axis.default} />
          ))}
        </div>
      </Group>
      <Features block={block} path={path} features={face?.features ?? []} />
      <Group
        title="Measures"
        help="Size is the em in px. Tracking is space added after every letter, leading the distance of lines against the typeface's own."
      >
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
        <Choice
          label="Case"
          value={block.case}
          options={["as typed", "capitals", { value: "small capitals", show: "small caps" }]}
          onChoose={(value) => edit([{ op: "replace", path: `${path}/case`, value }])}
        />
      </Group>
      <AlongFold block={block} path={path} />
      <SingleLetters block={block} path={path} />
    </>
  );
}
