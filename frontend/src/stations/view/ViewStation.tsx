import { FieldsOf } from "../../fields/FieldsOf";
import { shown } from "../../fields/NumberField";
import { PointField } from "../../fields/PointField";
import { liveNow, useDocument, useLive } from "../../live/store";
import { useWorkshop } from "../../live/workshop";
import { Hint, Remark } from "../../ui/Notes";
import { Columns } from "../../ui/Rows";
import { FoldingSection, Section } from "../../ui/Section";
import { TextAction } from "../../ui/TextAction";
import { SightLines } from "./SightLines";

/** Directions in which the axes x, y, z of the letters are seen, for the little axis crosses. */
const CROSSES: Record<string, string> = {
  "left wall": "M8 8v18l14 8M8 26l12-7",
  "right wall": "M22 8v18L8 34M22 26l-12-7",
  floor: "M15 4v14M15 18l13 9M15 18 2 27",
  ceiling: "M15 32V18M15 18l13-9M15 18 2 9",
  dimetric: "M10 4v20M10 24l17 2M10 24 3 31",
  cavalier: "M14 5v17M14 22h14M14 22 3 33",
  cabinet: "M12 5v19M12 24h16M12 24l-6 6",
};

/** Exact turns, named placements and the lens. */
export function ViewStation() {
  const { view } = useDocument();
  const placement = useLive((live) => live.piece?.placement);
  const edit = liveNow().edit;
  const placements = useWorkshop().placements;
  const blur = useLive((live) => live.piece?.drawings.view.blur ?? 0);
  const central = view.projection === "central";
  return (
    <>
      <SightLines />
      <Section
        title="Turn"
        help="Turns the whole piece about the horizontal axis (x), the vertical axis (y) and the line of sight (z). Dragging on the stage does the same."
        actions={
          <TextAction onClick={() => edit([{ op: "replace", path: "/view/turn", value: { x: 0, y: 0, z: 0 } }])}>
            Level
          </TextAction>
        }
      >
        <Columns of={3}>
          <PointField model="Turn" path="/view/turn" value={view.turn} labels={{ x: "x", y: "y", z: "z" }} />
        </Columns>
      </Section>
      <Section
        title="Named projections"
        help="The standard views of technical drawing: isometric on four planes, dimetric, cavalier and cabinet."
        actions={<Remark>ISO 5456-3</Remark>}
      >
        <div data-part="projections" className="grid grid-cols-4 gap-x-1.5 gap-y-1 py-1">
          {placements.map((entry) => (
            <button
              key={entry.name}
              type="button"
              className="flex flex-col items-center gap-[3px] rounded-sheet border-2 border-transparent py-[5px] text-caption hover:bg-paper-recess aria-pressed:border-verdigris aria-pressed:bg-sheet aria-pressed:font-[650]"
              aria-pressed={entry.name === placement}
              onClick={() =>
                edit([
                  { op: "replace", path: "/view/turn", value: entry.view.turn },
                  { op: "replace", path: "/view/projection", value: entry.view.projection },
                  ...(entry.view.projection === "oblique"
                    ? [{ op: "replace" as const, path: "/view/oblique", value: entry.view.oblique }]
                    : []),
                ])
              }
            >
              <svg className="h-[34px]" viewBox="0 0 30 38" aria-hidden="true">
                <path d={CROSSES[entry.name]} fill="none" stroke="currentColor" strokeWidth="2" />
              </svg>
              {entry.name}
            </button>
          ))}
        </div>
      </Section>
      <Section
        title="Camera"
        help="Focal length on a 36 × 24 mm frame. The face keeps its size; only the depth looks longer or shorter."
      >
        <FieldsOf model="View" path="/view" values={view} />
        {view.projection === "oblique" && <FieldsOf model="Oblique" path="/view/oblique" values={view.oblique} />}
        <FoldingSection
          title="Framing"
          help="Zoom without changing the perspective, move the camera, or shift the picture as with a shift lens."
          summary={`camera ${shown(view.across)}, ${shown(view.up)} · shift ${shown(view.shift_x)}, ${shown(view.shift_y)}`}
        >
          <FieldsOf model="View" group="framing" path="/view" values={view} />
        </FoldingSection>
        {central && (
          <FoldingSection
            title="Depth of field"
            help="With an aperture, only the plane of focus is sharp."
            summary={view.aperture ? `f/${shown(view.aperture)}, backs blur ${shown(blur)} px` : "all sharp"}
          >
            <FieldsOf model="View" group="depth of field" path="/view" values={view} />
            <Hint>An aperture of 0 keeps everything sharp. Focus is in front of the face plane.</Hint>
          </FoldingSection>
        )}
      </Section>
    </>
  );
}
