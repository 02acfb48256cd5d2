import { Choice } from "../../components/Choice";
import { Group } from "../../components/Group";
import { NumberField } from "../../components/NumberField";
import { useDocument, useLive } from "../../live/store";
import { useWorkshop } from "../../live/workshop";
import { SightLines } from "./SightLines";

/** Directions in which the axes x, y, z of the letters are seen, for the little axis crosses. */
const CROSSES: Record<string, string> = {
  "left wall": "M8 8v18l14 8M8 26l12-7",
  "right wall": "M22 8v18L8 34M22 26l-12-7",
  floor: "M15 4v14M15 18l13 9M15 18 2 27",
  ceiling: "M15 32V18M15 18l13-9M15 18 2 9",
};

/** Exact turns, named placements and the lens. */
export function ViewStation() {
  const { view } = useDocument();
  const placement = useLive((live) => live.piece?.placement);
  const edit = useLive.getState().edit;
  const placements = useWorkshop()?.placements ?? [];
  return (
    <>
      <SightLines />
      <Group
        title="Turn"
        actions={
          <button
            type="button"
            className="text-action"
            onClick={() => edit([{ op: "replace", path: "/view/turn", value: { x: 0, y: 0, z: 0 } }])}
          >
            Level
          </button>
        }
      >
        <div className="triple">
          <NumberField field="Turn.x" label="x" path="/view/turn/x" value={view.turn.x} />
          <NumberField field="Turn.y" label="y" path="/view/turn/y" value={view.turn.y} />
          <NumberField field="Turn.z" label="z" path="/view/turn/z" value={view.turn.z} />
        </div>
      </Group>
      <Group title="Isometric placements" actions={<span className="aside">ISO 5456-3</span>}>
        <div className="placements">
          {placements.map((entry) => (
            <button
              key={entry.name}
              type="button"
              aria-pressed={entry.name === placement}
              onClick={() =>
                edit([
                  { op: "replace", path: "/view/turn", value: entry.turn },
                  { op: "replace", path: "/view/projection", value: "parallel" },
                ])
              }
            >
              <svg viewBox="0 0 30 38" aria-hidden="true">
                <path d={CROSSES[entry.name]} fill="none" stroke="currentColor" strokeWidth="2" />
              </svg>
              {entry.name}
            </button>
          ))}
        </div>
      </Group>
      <Group title="Projection">
        <Choice
          label="Rays"
          value={view.projection}
          options={["central", "parallel"]}
          onChoose={(projection) => edit([{ op: "replace", path: "/view/projection", value: projection }])}
        />
        <NumberField field="View.focal_length" path="/view/focal_length" value={view.focal_length} />
      </Group>
    </>
  );
}
