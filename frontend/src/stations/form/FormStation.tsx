import { liveNow, useBlock } from "../../live/store";
import { Tick } from "../../ui/Tick";
import { BevelGroup } from "./BevelGroup";
import { BodyGroup } from "./BodyGroup";
import { CutsFolds } from "./CutsFolds";
import { PlatesFold } from "./PlatesFold";
import { RunFold } from "./RunFold";
import { SectionDrawing } from "./SectionDrawing";
import { SlabGroup } from "./SlabGroup";

/** What body the block is given, over the sections it makes. */
export function FormStation() {
  const { block, path } = useBlock();
  const edit = liveNow().edit;
  const { form } = block;
  const at = `${path}/form`;
  // What a form has no use for is not offered: a pit has no back to run or plates behind it, a tube no outline to cut.
  const cut = form.stands === "v-cut" || form.stands === "flat-cut";
  return (
    <>
      <SectionDrawing />
      <BodyGroup form={form} path={at} />
      {form.stands !== "free" && <SlabGroup form={form} path={at} />}
      {form.kind !== "tube" && form.stands !== "v-cut" && (
        <BevelGroup
          title={form.stands === "flat-cut" ? "Walls" : "Bevel"}
          bevel={form.bevel}
          path={`${at}/bevel`}
          whole
          walls={cut}
        />
      )}
      <div className="mt-1">
        {!cut && <PlatesFold form={form} path={at} />}
        {!cut && form.kind !== "tube" && <RunFold form={form} path={at} />}
        {form.kind !== "tube" && <CutsFolds form={form} path={at} />}
        {block.kind === "lettering" && (
          <div className="border-t border-rule py-2">
            <Tick
              label="Join letters that overlap"
              on={form.joined}
              onChange={(on) => edit([{ op: "replace", path: `${at}/joined`, value: on }])}
            />
          </div>
        )}
      </div>
    </>
  );
}
