import { TickField } from "../../fields/TickField";
import { useBlock } from "../../live/store";
import { BevelGroup } from "./BevelGroup";
import { BodyGroup } from "./BodyGroup";
import { Cuts } from "./Cuts";
import { Plates } from "./Plates";
import { Run } from "./Run";
import { SectionDrawing } from "./SectionDrawing";
import { SlabGroup } from "./SlabGroup";

/** What body the block is given, over the sections it makes. */
export function FormStation() {
  const { block, path } = useBlock();
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
        {!cut && <Plates form={form} path={at} />}
        {!cut && form.kind !== "tube" && <Run form={form} path={at} />}
        {form.kind !== "tube" && <Cuts form={form} path={at} />}
        {block.kind === "lettering" && (
          <div className="border-t border-rule py-2">
            <TickField label="Join letters that overlap" path={`${at}/joined`} on={form.joined} />
          </div>
        )}
      </div>
    </>
  );
}
