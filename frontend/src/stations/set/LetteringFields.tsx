import type { LetteringBlock } from "../../api/client";
import { Advice } from "../../components/AdviceOf";
import { FieldsOf } from "../../fields/FieldsOf";
import { useWorkshop } from "../../live/workshop";
import { Columns } from "../../ui/Rows";
import { Section } from "../../ui/Section";
import { Along } from "./Along";
import { AxisField } from "./AxisField";
import { Features } from "./Features";
import { SingleLetters } from "./SingleLetters";
import { TypefaceBrowser } from "./TypefaceBrowser";
import { Words } from "./Words";

/** The words, their typeface and their measures. */
export function LetteringFields({ block, path }: { block: LetteringBlock; path: string }) {
  const face = useWorkshop().typefaces.find((entry) => entry.id === block.typeface);
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
        <FieldsOf model="Lettering" path={path} values={block} />
      </Section>
      <Along block={block} path={path} />
      <SingleLetters block={block} path={path} />
    </>
  );
}
