import type { ReactNode } from "react";
import type { Material } from "../api/client";
import { liveNow } from "../live/store";
import { FoldingSection } from "../ui/Section";
import { TextAction } from "../ui/TextAction";
import { Tick } from "../ui/Tick";
import { FieldsOf } from "./FieldsOf";
import { type LaidOver, Layers } from "./Layers";
import { AddGreyLayer } from "./VariedField";

/** A material's model in the schema: `glass` is Glass. */
const modelOf = ({ kind }: Material) => kind.charAt(0).toUpperCase() + kind.slice(1);

/** Everything that can be set of one material. */
export function MaterialFields({ material, path, over }: { material: Material; path: string; over?: LaidOver }) {
  const colour = "tint" in material ? material.tint : material.colour;
  const colourLayers = typeof colour === "string" ? [] : colour.layers;
  return (
    <>
      <FieldsOf model={modelOf(material)} path={path} values={material} over={over} />
      {material.kind === "glass" && (
        <Extra
          label="inner layer"
          path={`${path}/layer`}
          help="A colour or pattern painted on the back of the glass, seen through it."
          summary={material.layer?.pattern}
        >
          {material.layer && <FieldsOf model="InnerLayer" path={`${path}/layer`} values={material.layer} />}
        </Extra>
      )}
      {"coat" in material && (
        <Extra
          label="coat"
          path={`${path}/coat`}
          help="A clear or tinted lacquer over the material. Under it only a metal keeps a gloss of its own."
          summary={material.coat?.tint}
        >
          {material.coat && <FieldsOf model="Coat" path={`${path}/coat`} values={material.coat} />}
        </Extra>
      )}
      {"embossing" in material && (
        <Extra
          label="embossing"
          path={`${path}/embossing`}
          help="Relief by the tones of layers, white the highest, or by a picture of normals."
          summary={material.embossing?.reads}
        >
          {material.embossing && (
            <>
              <FieldsOf model="Embossing" path={`${path}/embossing`} values={material.embossing} />
              <Layers
                of="embossing"
                path={`${path}/embossing/layers`}
                layers={material.embossing.layers}
                over={over}
                holderWith={(layers) => ({ ...material, embossing: { ...material.embossing, layers } })}
              />
              <AddGreyLayer of="embossing" path={`${path}/embossing/layers`} />
              {colourLayers.length > 0 && (
                <p className="text-right">
                  <TextAction
                    title="Its relief follows the tones of its colour: a photograph becomes a surface"
                    onClick={() => liveNow().edit([{ op: "replace", path: `${path}/embossing/layers`, value: colourLayers }])}
                  >
                    The layers of its colour
                  </TextAction>
                </p>
              )}
            </>
          )}
        </Extra>
      )}
    </>
  );
}

interface ExtraProps {
  label: string;
  path: string;
  help: string;
  /** Without, the material does not have it. */
  summary: string | undefined;
  children: ReactNode;
}

/** A part of a material that it can have or not, folded away under its name. */
function Extra({ label, path, help, summary, children }: ExtraProps) {
  const set = (on: boolean) => liveNow().edit([{ op: "replace", path, value: on ? {} : null }]);
  return (
    <>
      <Tick label={label} on={summary !== undefined} onChange={set} />
      {summary !== undefined && (
        <FoldingSection title={label.charAt(0).toUpperCase() + label.slice(1)} help={help} summary={summary}>
          {children}
        </FoldingSection>
      )}
    </>
  );
}
