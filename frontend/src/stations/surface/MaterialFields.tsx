import type { Material } from "../../api/client";
import { ColourField } from "../../fields/ColourField";
import { FieldsOf } from "../../fields/FieldsOf";
import { liveNow } from "../../live/store";
import { Choice } from "../../ui/Choice";
import { Fold } from "../../ui/Fold";
import { Tick } from "../../ui/Tick";

interface Shape {
  /** The model's name in the schema. */
  model: string;
  colours: readonly (readonly [name: string, label: string])[];
  choices?: readonly (readonly [name: string, label: string, options: readonly string[]])[];
}

/** What besides numbers each kind of material has. */
const SHAPES: Record<Material["kind"], Shape> = {
  metal: { model: "Metal", colours: [["tint", "Tint"]] },
  plastic: {
    model: "Plastic",
    colours: [
      ["colour", "Colour"],
      ["pearl_colour", "Pearl colour"],
    ],
  },
  glass: { model: "Glass", colours: [["tint", "Tint"]] },
  paint: { model: "Paint", colours: [["colour", "Colour"]], choices: [["finish", "Finish", ["matt", "satin", "gloss"]]] },
  stone: {
    model: "Stone",
    colours: [
      ["colour", "Colour"],
      ["second", "Second colour"],
    ],
    choices: [["stone", "Stone", ["granite", "marble", "slate", "sandstone"]]],
  },
  wood: {
    model: "Wood",
    colours: [
      ["colour", "Early wood"],
      ["second", "Late wood"],
    ],
  },
  plaster: { model: "Plaster", colours: [["colour", "Colour"]], choices: [["texture", "Texture", ["plaster", "paper"]]] },
  glow: { model: "Glow", colours: [["colour", "Colour"]] },
  flat: { model: "Flat", colours: [["colour", "Colour"]] },
};

const LAYER: Shape = {
  model: "InnerLayer",
  colours: [
    ["colour", "Layer colour"],
    ["second", "Second colour"],
  ],
  choices: [["pattern", "Pattern", ["plain", "stripes", "dots", "checks"]]],
};

/** Everything that can be set of one material. */
export function MaterialFields({ material, path }: { material: Material; path: string }) {
  const edit = liveNow().edit;
  const replace = (name: string, value: unknown) => edit([{ op: "replace", path: `${path}/${name}`, value }]);
  return (
    <>
      <Fields shape={SHAPES[material.kind]} path={path} values={material} />
      {material.kind === "glass" && (
        <>
          <div className="flex flex-wrap items-center justify-between gap-x-3 gap-y-1 py-[5px]">
            <Tick label="thin walls" on={material.thin} onChange={(on) => replace("thin", on)} />
            <Tick label="inner layer" on={material.layer !== null} onChange={(on) => replace("layer", on ? {} : null)} />
          </div>
          {material.layer && (
            <Fold
              title="Inner layer"
              help="A colour or pattern painted on the back of the glass, seen through it."
              summary={material.layer.pattern}
            >
              <Fields shape={LAYER} path={`${path}/layer`} values={material.layer} />
            </Fold>
          )}
        </>
      )}
    </>
  );
}

function Fields({ shape, path, values }: { shape: Shape; path: string; values: object }) {
  const edit = liveNow().edit;
  const held = values as Record<string, string>;
  return (
    <>
      {shape.choices?.map(([name, label, options]) => (
        <Choice
          key={name}
          label={label}
          hideLabel={options.length > 3}
          value={held[name]}
          options={options}
          onChoose={(value) => edit([{ op: "replace", path: `${path}/${name}`, value }])}
        />
      ))}
      {shape.colours.map(([name, label]) => (
        <ColourField key={name} label={label} path={`${path}/${name}`} value={held[name]} />
      ))}
      <FieldsOf model={shape.model} path={path} values={values} />
    </>
  );
}
