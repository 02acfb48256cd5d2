import type { LetteringBlock } from "../../api/client";
import { Advice } from "../../components/AdviceOf";
import { NumberField } from "../../fields/NumberField";
import { liveNow } from "../../live/store";
import { useWorkshop } from "../../live/workshop";
import { Choice } from "../../ui/Choice";
import { Columns } from "../../ui/Rows";
import { Section } from "../../ui/Section";
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
      <Section
        title="Typeface"
        help="The list shows your own words in every typeface, in the form they have now. Heaviness is stem width divided by cap height."
      >
        <TypefaceBrowser block={block} path={path} />
        <Columns>
          {face?.axes.map((axis) => (
            <AxisField key={axis.tag} {...axis} value={block.axes?.[axis.tag] ?? axis.default} />
          ))}
        </Columns>
      </Section>
      <Features block={block} path={path} features={face?.features ?? []} />
      <Section
        title="Spacing"
        help="Size is the em in px. Tracking adds space after every letter; leading scales the typeface's own line spacing."
      >
        <Columns>
          <NumberField field="Lettering.size" path={`${path}/size`} value={block.size} />
          <NumberField field="Lettering.tracking" path={`${path}/tracking`} value={block.tracking} />
          <NumberField field="Lettering.leading" path={`${path}/leading`} value={block.leading} />
        </Columns>
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
      </Section>
      <AlongFold block={block} path={path} />
      <SingleLetters block={block} path={path} />
    </>
  );
}
