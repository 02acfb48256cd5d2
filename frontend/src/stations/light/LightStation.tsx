import { CommandAction } from "../../commands/CommandAction";
import { FieldsOf } from "../../fields/FieldsOf";
import { shown } from "../../fields/NumberField";
import { deskNow, useDesk } from "../../live/desk";
import { useDocument } from "../../live/store";
import { Hint, Remark } from "../../ui/Notes";
import { Actions } from "../../ui/Rows";
import { Section } from "../../ui/Section";
import { LampFields } from "./LampFields";
import { LightingPlot } from "./LightingPlot";
import { Schedule } from "./Schedule";
import { Setups } from "./Setups";
import { Shares } from "./Shares";
import { Surroundings } from "./Surroundings";
import { Tones } from "./Tones";

/** The lamps, their schedule and the surroundings. */
export function LightStation() {
  const { light } = useDocument();
  const pick = deskNow().pickLamp;
  const index = Math.min(
    useDesk((desk) => desk.lamp),
    light.lamps.length - 1,
  );
  const lamp = light.lamps[index];

  return (
    <>
      <LightingPlot picked={index} onPick={pick} />
      <Setups />
      <Section
        title="Lamps"
        help="Each lamp has a bearing (120° is upper left) and an elevation above the face. The same lamps make all shading, shadows and reflections."
        actions={
          <Actions>
            <CommandAction id="add-lamp">Add a lamp</CommandAction>
            <CommandAction id="add-lamp-by-highlight">Add by highlight</CommandAction>
            {lamp && <CommandAction id="remove-lamp">Remove</CommandAction>}
          </Actions>
        }
      >
        <Schedule lamps={light.lamps} picked={index} onPick={pick} />
        {lamp ? (
          <LampFields key={lamp.id} lamp={lamp} path={`/light/lamps/${index}`} />
        ) : (
          <Hint>There are no lamps; only the surroundings give light.</Hint>
        )}
        <Shares light={light} picked={index} onPick={pick} />
      </Section>
      <Surroundings surround={light.surround} />
      <Section
        title="Exposure and tone"
        help="Brightness of the whole picture, in stops; the light itself stays as it is. Of the tone curves, neutral shows colours as picked, rich holds the colour of metals up to the highlight, plain clips."
        actions={<Remark>{shown(2 ** light.exposure)} × the light</Remark>}
      >
        <FieldsOf model="Light" path="/light" values={light} />
      </Section>
      <Tones />
    </>
  );
}
