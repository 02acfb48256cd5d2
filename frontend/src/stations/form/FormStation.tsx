import { Choice } from "../../components/Choice";
import { Advice, Group } from "../../components/Group";
import { NumberField } from "../../components/NumberField";
import { Tick } from "../../components/Tick";
import { useDocument, useLive } from "../../live/store";
import { SectionDrawing } from "./SectionDrawing";

/** Depth and bevel, over the section they make. */
export function FormStation() {
  const { form } = useDocument().blocks[0];
  const edit = useLive.getState().edit;
  const path = "/blocks/0/form";
  const put = (name: string, value: unknown) => edit([{ op: "replace", path: `${path}/bevel/${name}`, value }]);
  return (
    <>
      <SectionDrawing />
      <Group title="Body">
        <NumberField field="Form.depth" path={`${path}/depth`} value={form.depth} />
      </Group>
      <Group
        title="Bevel"
        actions={
          <span className="ticks">
            <Tick label="front" on={form.bevel.front} onChange={(on) => put("front", on)} />
            <Tick label="back" on={form.bevel.back} onChange={(on) => put("back", on)} />
          </span>
        }
      >
        <Choice
          label="Profile"
          hideLabel
          value={form.bevel.profile}
          options={[
            { value: "chamfer", show: <Moulding name="chamfer" d="M8 40V24L24 8H48V40Z" /> },
            { value: "ovolo", show: <Moulding name="ovolo" d="M8 40V24A16 16 0 0 1 24 8H48V40Z" /> },
          ]}
          onChoose={(profile) => put("profile", profile)}
        />
        <div className="pair">
          <NumberField field="Bevel.width" path={`${path}/bevel/width`} value={form.bevel.width} />
          <NumberField field="Bevel.height" path={`${path}/bevel/height`} value={form.bevel.height} />
        </div>
        <Advice station="form" />
      </Group>
    </>
  );
}

function Moulding({ name, d }: { name: string; d: string }) {
  return (
    <span className="moulding">
      <svg viewBox="0 0 56 44" aria-hidden="true">
        <path d={d} fill="var(--rule)" stroke="var(--ink)" strokeWidth="1.5" />
      </svg>
      {name}
    </span>
  );
}
