import type { Bevel } from "../../api/client";
import { Advice } from "../../components/AdviceOf";
import { ChoiceField } from "../../fields/ChoiceField";
import { NumberField } from "../../fields/NumberField";
import { TickField } from "../../fields/TickField";
import { liveNow } from "../../live/store";
import { Hint } from "../../ui/Notes";
import { Columns, Ticks } from "../../ui/Rows";
import { Section } from "../../ui/Section";
import { CurveEditor } from "./CurveEditor";
import { Mouldings } from "./Mouldings";

interface Props {
  title: string;
  bevel: Bevel;
  path: string;
  /** The letters' own bevel has more to say than a plate's or a slab's. */
  whole?: boolean;
  /** The walls of a pit have one side and lie within the letter. */
  walls?: boolean;
}

/** A bevel: its moulding, width and height, and how it turns corners. */
export function BevelGroup({ title, bevel, path, whole, walls }: Props) {
  const edit = liveNow().edit;
  return (
    <Section
      title={title}
      actions={
        !walls && (
          <Ticks>
            <TickField label="front" path={`${path}/front`} on={bevel.front} />
            <TickField label="back" path={`${path}/back`} on={bevel.back} />
          </Ticks>
        )
      }
    >
      <Mouldings
        value={bevel.profile}
        onChoose={(profile) => edit([{ op: "replace", path: `${path}/profile`, value: profile }])}
      />
      <Columns>
        {!bevel.to_ridge && <NumberField field="Bevel.width" path={`${path}/width`} value={bevel.width} />}
        {bevel.to_ridge && <Hint>Runs to the ridge</Hint>}
        {!walls && <NumberField field="Bevel.height" path={`${path}/height`} value={bevel.height} />}
        {bevel.profile === "step" && <NumberField field="Bevel.steps" path={`${path}/steps`} value={bevel.steps} />}
      </Columns>
      {bevel.profile === "curve" && whole && <CurveEditor bevel={bevel} path={path} />}
      {whole && (
        <>
          <Ticks>
            <TickField label="to the ridge" path={`${path}/to_ridge`} on={bevel.to_ridge} />
            {!walls && <TickField label="cushion" path={`${path}/cushion`} on={bevel.cushion} />}
          </Ticks>
          {!walls && <ChoiceField label="Direction" path={`${path}/side`} value={bevel.side} options={["inset", "outset"]} />}
          <ChoiceField label="Inner corners" path={`${path}/corner`} value={bevel.corner} options={["mitred", "rounded"]} />
          <Advice station="form" />
        </>
      )}
    </Section>
  );
}
