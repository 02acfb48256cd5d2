import type { Form } from "../../api/client";
import { FieldsOf } from "../../fields/FieldsOf";
import { deskNow, useDesk } from "../../live/desk";
import { liveNow } from "../../live/store";
import { Entry } from "../../ui/Entry";
import { FoldingSection } from "../../ui/Section";
import { TextAction } from "../../ui/TextAction";

/** Kerfs drawn across the letters, and holes bored through them. */
export function Cuts({ form, path }: { form: Form; path: string }) {
  const edit = liveNow().edit;
  const tool = useDesk((desk) => desk.tool);
  const { kerfs, holes } = form;
  return (
    <>
      <FoldingSection
        title="Kerf cuts"
        help="Cuts of a set width through the letters, along lines drawn on the stage. Jagged cuts look like cracks."
        summary={kerfs.length ? String(kerfs.length) : "none"}
      >
        {kerfs.map((kerf, i) => (
          <Entry key={i} title={`Kerf ${i + 1}`} onRemove={() => edit([{ op: "remove", path: `${path}/kerfs/${i}` }])}>
            <FieldsOf model="Kerf" path={`${path}/kerfs/${i}`} values={kerf} />
          </Entry>
        ))}
        <TextAction aria-pressed={tool === "kerf"} onClick={() => deskNow().take(tool === "kerf" ? null : "kerf")}>
          Draw a kerf on the stage
        </TextAction>
      </FoldingSection>
      <FoldingSection
        title="Drilled holes"
        help="Round holes through the letters, scattered at random from a seed."
        summary={holes?.count ? String(holes.count) : "none"}
      >
        {holes ? (
          <>
            <FieldsOf model="Holes" path={`${path}/holes`} values={holes} />
            <TextAction onClick={() => edit([{ op: "replace", path: `${path}/holes`, value: null }])}>
              Remove the holes
            </TextAction>
          </>
        ) : (
          <TextAction onClick={() => edit([{ op: "replace", path: `${path}/holes`, value: {} }])}>Bore holes</TextAction>
        )}
      </FoldingSection>
    </>
  );
}
