import type { Backdrop, Material } from "../../api/client";
import { blockName } from "../../components/blockName";
import { MaterialPicker } from "../../components/MaterialPicker";
import { Paints } from "../../components/Paints";
import { ChoiceField } from "../../fields/ChoiceField";
import { FieldsOf } from "../../fields/FieldsOf";
import { MaterialFields } from "../../fields/MaterialFields";
import { liveNow, useDocument } from "../../live/store";
import { useWorkshop } from "../../live/workshop";
import { Hint, Remark } from "../../ui/Notes";
import { Ticks } from "../../ui/Rows";
import { FoldingSection, Section } from "../../ui/Section";
import { TextAction } from "../../ui/TextAction";
import { Tick } from "../../ui/Tick";

const SAYS = {
  none: "The colour alone, just as picked. Nothing catches a shadow; glass shows it bent.",
  wall: "A wall behind the letters, parallel to their faces; it turns with them and takes the lamps' light and shadow.",
  floor: "A level floor under the letters and a wall behind them. It sweeps up into the wall; at 0 they meet in a corner.",
};

/** What stands behind the lettering: its colour or its material, the ground, and how the letters show on it. */
export function BackdropStation() {
  const { backdrop, blocks } = useDocument();
  const usual = useWorkshop().usual_backdrops;
  const { ground } = backdrop;
  const made = ground !== "none" && backdrop.material !== null;
  return (
    <>
      <Paints />
      <p className="flex flex-wrap gap-x-3 gap-y-2 pt-2">
        <span className="text-small text-ink-3">Begin with</span>
        {usual.map(({ name, backdrop: set }) => (
          <TextAction
            key={name}
            title="Sets the whole backdrop; undo brings back what was"
            onClick={() => liveNow().edit([{ op: "replace", path: "/backdrop", value: set }])}
          >
            {name}
          </TextAction>
        ))}
      </p>
      <Section
        title="Ground"
        help="A wall stands right behind the letters and turns with them. A floor lies level under them and ends in a wall."
      >
        <ChoiceField label="Ground" hideLabel path="/backdrop/ground" value={ground} options={["none", "wall", "floor"]} />
        <Hint>{SAYS[ground]}</Hint>
        <FieldsOf model="Backdrop" group="ground" path="/backdrop" values={backdrop} />
        {ground !== "none" && <Made name="material" label="made of a material" material={backdrop.material} />}
        {ground === "floor" && <Made name="wall" label="wall of another material" material={backdrop.wall} />}
      </Section>
      {!made && <Colour backdrop={backdrop} />}
      {ground !== "none" && (
        <>
          <FoldingSection
            title="Shade of the letters"
            help="The lamps make it. Here it can be lightened, tinted, softened and moved; at 0 % there is none."
            summary={summaryOf(backdrop.shade)}
          >
            <FieldsOf model="Shade" path="/backdrop/shade" values={backdrop.shade} />
            <Remark>Shade on the ground is cast by</Remark>
            <Ticks>
              {blocks.map((block, index) => (
                <Tick
                  key={block.id}
                  label={blockName(block)}
                  on={block.shades_ground}
                  onChange={(on) => liveNow().edit([{ op: "replace", path: `/blocks/${index}/shades_ground`, value: on }])}
                />
              ))}
            </Ticks>
          </FoldingSection>
          <Ticks stacked>
            <Tick
              label="letters mirrored in the ground"
              on={backdrop.reflection !== null}
              onChange={(on) => liveNow().edit([{ op: "replace", path: "/backdrop/reflection", value: on ? {} : null }])}
            />
          </Ticks>
          {backdrop.reflection && <FieldsOf model="Reflection" path="/backdrop/reflection" values={backdrop.reflection} />}
        </>
      )}
    </>
  );
}

/** Layers of the colour are sections of their own. */
function Colour({ backdrop }: { backdrop: Backdrop }) {
  const over = backdrop.ground === "none" ? "canvas" : "ground";
  const fields = <FieldsOf model="Backdrop" path="/backdrop" values={backdrop} over={over} />;
  if (typeof backdrop.colour !== "string") return fields;
  return (
    <Section title="Colour" help="Behind everything, or the paint of the ground: one colour, or layers over one.">
      {fields}
    </Section>
  );
}

function summaryOf({ density, contact, softness, x, y }: Backdrop["shade"]) {
  if (density === 0 && contact === 0) return "none";
  return density === 100 && contact === 100 && softness === 0 && x === 0 && y === 0 ? "as lit" : `${density} %`;
}

interface MadeProps {
  name: "material" | "wall";
  label: string;
  material: Backdrop["material"];
}

/** What the ground is made of, in place of being painted in the backdrop's colour. */
function Made({ name, label, material }: MadeProps) {
  const kinds = useWorkshop().ground_materials;
  const path = `/backdrop/${name}`;
  const choose = (value: Material | null | { kind: string }) => liveNow().edit([{ op: "replace", path, value }]);
  return (
    <>
      <Ticks>
        <Tick label={label} on={material !== null} onChange={(on) => choose(on ? { kind: kinds[0] ?? "" } : null)} />
      </Ticks>
      {material && (
        <FoldingSection
          title={name === "wall" ? "Material of the wall" : "Material of the ground"}
          summary={material.kind}
          help="Its layers lie over the canvas, as the camera sees it, or over the ground itself."
        >
          <MaterialPicker kinds={kinds} material={material} own onChoose={choose} />
          <MaterialFields material={material} path={path} over="ground" />
        </FoldingSection>
      )}
    </>
  );
}
