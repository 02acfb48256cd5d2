import type { Mesh } from "../api/client";
import { liveNow } from "../live/store";
import { TextAction } from "../ui/TextAction";
import { FieldsOf } from "./FieldsOf";

interface Props {
  mesh: Mesh;
  path: string;
  /** Fields that have no meaning here. */
  without: readonly string[];
}

/** The points of a mesh, each a colour at its place, and how the mesh is laid. */
export function MeshFields({ mesh, path, without }: Props) {
  const edit = liveNow().edit;
  const { points } = mesh;
  return (
    <>
      {points.map((point, index) => (
        <div key={index} role="group" aria-label={`Point ${index + 1} of ${points.length}`}>
          <FieldsOf
            model="MeshPoint"
            path={`${path}/points/${index}`}
            values={point}
            columns={3}
            labels={{ colour: `Point ${index + 1}` }}
          />
          {points.length > 1 && (
            <p className="text-right">
              <TextAction onClick={() => edit([{ op: "remove", path: `${path}/points/${index}` }])}>Remove point</TextAction>
            </p>
          )}
        </div>
      ))}
      <p className="text-right">
        <TextAction onClick={() => edit([{ op: "add", path: `${path}/points/-`, value: { colour: points.at(-1)?.colour } }])}>
          Add point in the middle
        </TextAction>
      </p>
      <FieldsOf model="Mesh" path={path} values={mesh} without={without} />
    </>
  );
}
