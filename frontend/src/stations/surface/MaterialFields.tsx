import type { Material } from "../../api/client";
import { FieldsOf } from "../../fields/FieldsOf";
import { liveNow } from "../../live/store";
import { FoldingSection } from "../../ui/Section";
import { Tick } from "../../ui/Tick";

/** A material's model in the schema: `glass` is Glass. */
const modelOf = ({ kind }: Material) => kind.charAt(0).toUpperCase() + kind.slice(1);

/** Everything that can be set of one material. */
export function MaterialFields({ material, path }: { material: Material; path: string }) {
  const edit = liveNow().edit;
  return (
    <>
      <FieldsOf model={modelOf(material)} path={path} values={material} />
      {material.kind === "glass" && (
        <>
          <Tick
            label="inner layer"
            on={material.layer !== null}
            onChange={(on) => edit([{ op: "replace", path: `${path}/layer`, value: on ? {} : null }])}
          />
          {material.layer && (
            <FoldingSection
              title="Inner layer"
              help="A colour or pattern painted on the back of the glass, seen through it."
              summary={material.layer.pattern}
            >
              <FieldsOf model="InnerLayer" path={`${path}/layer`} values={material.layer} />
            </FoldingSection>
          )}
        </>
      )}
    </>
  );
}
