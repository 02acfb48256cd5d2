import type { Bevel } from "../../api/client";
import { Advice } from "../../components/AdviceOf";
import { NumberField } from "../../fields/NumberField";
import { liveNow } from "../../live/store";
import { Choice } from "../../ui/Choice";
import { Hint } from "../../ui/Notes";
import { Columns, Ticks } from "../../ui/Rows";
import { Section } from "../../ui/Section";
import { Tick } from "../../ui/Tick";
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
  const put = (name: string, value: unknown) => edit([{ op: "replace", path: `${path}/${name}`, value }]);
  return (
    <Section
      title={title}
      actions={
        !walls && (
          <Ticks>
            <Tick label="front" on={bevel.front} onChange={(on) => put("front", on)} />
            <Tick label="back" on={bevel.back} onChange={(on) => put("back", on)} />
          </Ticks>
        )
      }
    >
      <Mouldings value={bevel.profile} onChoose={(profile) => put("profile", profile)} />
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
            <Tick label="to the ridge" on={bevel.to_ridge} onChange={(on) => put("to_ridge", on)} />
            {!walls && <Tick label="cushion" on={bevel.cushion} onChange={(on) => put("cushion", on)} />}
          </Ticks>
          {!walls && (
            <Choice label="Direction" value={bevel.side} options={["inset", "outset"]} onChoose={(side) => put("side", side)} />
          )}
          <Choice
            label="Inner corners"
            value={bevel.corner}
            options={["mitred", "rounded"]}
            onChoose={(corner) => put("corner", corner)}
          />
          <Advice station="form" />
        </>
      )}
    </Section>
  );
}
