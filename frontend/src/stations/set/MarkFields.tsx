import type { MarkBlock } from "../../api/client";
import { NumberField } from "../../fields/NumberField";
import { liveNow } from "../../live/store";
import { Entry } from "../../ui/Entry";
import { Notice } from "../../ui/Notes";
import { Columns } from "../../ui/Rows";
import { Section } from "../../ui/Section";
import { TextAction } from "../../ui/TextAction";
import { Tick } from "../../ui/Tick";
import { MaterialChoice } from "./MaterialChoice";

/** An imported mark: its scale, what of its file is left out, and its parts one by one. */
export function MarkFields({ block, path }: { block: MarkBlock; path: string }) {
  const edit = liveNow().edit;
  return (
    <Section
      title="Mark"
      help="A drawing from an SVG file. Each area and line is a part of its own, with its own depth, lift and material, and can be hidden."
    >
      <NumberField field="Mark.scale" path={`${path}/scale`} value={block.scale} />
      {block.left_out && block.left_out.length > 0 && <Notice>Not shown of the file: {block.left_out.join(", ")}.</Notice>}
      {block.parts.map((part, i) => {
        const at = `${path}/parts/${i}`;
        return (
          <Entry key={i} title={`Part ${i + 1}`} measure={part.name}>
            <Tick
              label="Shown"
              on={!part.hidden}
              onChange={(on) => edit([{ op: "replace", path: `${at}/hidden`, value: !on }])}
            />
            <Columns>
              <NumberField field="MarkPart.lift" path={`${at}/lift`} value={part.lift} />
              <NumberField field="MarkPart.depth" path={`${at}/depth`} value={part.depth ?? block.form.depth} />
            </Columns>
            {part.depth !== null && part.depth !== undefined && (
              <TextAction onClick={() => edit([{ op: "replace", path: `${at}/depth`, value: null }])}>
                As deep as the block
              </TextAction>
            )}
            <MaterialChoice label="Material" path={`${at}/material`} material={part.material} />
          </Entry>
        );
      })}
    </Section>
  );
}
