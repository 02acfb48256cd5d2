import { useState } from "react";
import type { Material, Surface } from "../../api/client";
import { Choice } from "../../components/Choice";
import { ColourField } from "../../components/ColourField";
import { Group } from "../../components/Group";
import { NumberField } from "../../components/NumberField";
import { useBlock, useLive } from "../../live/store";
import { useWorkshop } from "../../live/workshop";

type PartName = "face" | "bevel" | "return" | "back" | "plate" | "slab";

/** Each part and the one it follows where it has no material of its own. */
const PARTS: { name: PartName; follows?: PartName }[] = [
  { name: "face" },
  { name: "bevel", follows: "face" },
  { name: "return", follows: "bevel" },
  { name: "back", follows: "return" },
  { name: "plate", follows: "return" },
  { name: "slab", follows: "plate" },
];

/** A first material of each kind. */
const FIRST: Record<Material["kind"], object> = {
  metal: { kind: "metal" },
  plastic: { kind: "plastic" },
  glass: { kind: "glass" },
};

function describe(material: Material): string {
  if (material.kind === "metal") return material.metal;
  return material.kind === "plastic" ? `plastic ${material.colour}` : "glass";
}

function swatch(material: Material): string {
  const metals: Record<string, string> = {
    gold: "#d9b25c",
    silver: "#d8d6d0",
    copper: "#cc8a6a",
    aluminium: "#c9cccd",
    chromium: "#a9b0b6",
  };
  if (material.kind === "metal") return metals[material.metal] ?? "#888888";
  return material.kind === "plastic" ? material.colour : material.tint;
}

function effective(surface: Surface, part: PartName): Material {
  const own = surface[part];
  const follows = PARTS.find((entry) => entry.name === part)?.follows;
  return own ?? (follows ? effective(surface, follows) : surface.face);
}

/** A material for each part of the body. */
export function SurfaceStation() {
  const { block, path: blockPath } = useBlock();
  const { surface, form } = block;
  const edit = useLive.getState().edit;
  const metals = useWorkshop()?.metals ?? [];
  const [part, setPart] = useState<PartName>("face");
  const path = `${blockPath}/surface/${part}`;
  const parts = PARTS.filter(
    ({ name }) => (name !== "plate" || form.plates.length > 0) && (name !== "slab" || form.stands !== "free"),
  );
  const own = surface[part] ?? null;
  const material = effective(surface, part);
  const follows = PARTS.find((entry) => entry.name === part)?.follows;
  return (
    <>
      <ul className="parts" aria-label="Parts">
        {parts.map((entry) => {
          const shownMaterial = effective(surface, entry.name);
          return (
            <li key={entry.name}>
              <button type="button" aria-pressed={entry.name === part} onClick={() => setPart(entry.name)}>
                <span
                  className={`plate ${shownMaterial.kind}`}
                  style={{ "--colour": swatch(shownMaterial) } as React.CSSProperties}
                />
                <span>
                  {entry.name}
                  <small>{surface[entry.name] ? describe(shownMaterial) : `as ${entry.follows}`}</small>
                </span>
              </button>
            </li>
          );
        })}
      </ul>
      <Group
        title={`Material of the ${part}`}
        actions={
          follows &&
          own && (
            <button type="button" className="text-action" onClick={() => edit([{ op: "replace", path, value: null }])}>
              As {follows}
            </button>
          )
        }
      >
        <Choice
          label="Material"
          hideLabel
          value={own ? material.kind : ("" as Material["kind"])}
          options={["metal", "plastic", "glass"]}
          onChoose={(kind) => edit([{ op: "replace", path, value: FIRST[kind] }])}
        />
        {!own && <p className="hint">Follows the {follows}. Choose a material to give it its own.</p>}
        {own?.kind === "metal" && (
          <>
            <div className="metals">
              {metals.map((metal) => (
                <button
                  key={metal}
                  type="button"
                  aria-pressed={metal === own.metal}
                  onClick={() => edit([{ op: "replace", path: `${path}/metal`, value: metal }])}
                >
                  <span
                    className="plate metal"
                    style={{ "--colour": swatch({ ...own, metal: metal as typeof own.metal }) } as React.CSSProperties}
                  />
                  {metal}
                </button>
              ))}
            </div>
            <NumberField field="Metal.roughness" path={`${path}/roughness`} value={own.roughness} />
          </>
        )}
        {own?.kind === "plastic" && (
          <>
            <ColourField label="Colour" path={`${path}/colour`} value={own.colour} />
            <NumberField field="Plastic.roughness" path={`${path}/roughness`} value={own.roughness} />
          </>
        )}
        {own?.kind === "glass" && (
          <>
            <ColourField label="Tint" path={`${path}/tint`} value={own.tint} />
            <div className="pair">
              <NumberField field="Glass.tint_depth" path={`${path}/tint_depth`} value={own.tint_depth} />
              <NumberField field="Glass.index" path={`${path}/index`} value={own.index} />
              <NumberField field="Glass.roughness" path={`${path}/roughness`} value={own.roughness} />
            </div>
          </>
        )}
      </Group>
    </>
  );
}
