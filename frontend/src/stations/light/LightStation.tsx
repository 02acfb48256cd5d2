import { CommandAction } from "../../commands/CommandAction";
import { Group } from "../../components/Group";
import { NumberField, shown } from "../../fields/NumberField";
import { deskNow, useDesk } from "../../live/desk";
import { useDocument } from "../../live/store";
import { LampFields } from "./LampFields";
import { LightingPlot } from "./LightingPlot";
import { Schedule } from "./Schedule";
import { Surroundings } from "./Surroundings";

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
      <Group
        title="Lamps"
        help="Every lamp by bearing (120° is upper left) and elevation over the face. One set of lamps makes every shading, shadow and reflection."
        actions={
          <span className="row-actions">
            <CommandAction id="add-lamp">Add a lamp</CommandAction>
            {lamp && <CommandAction id="remove-lamp">Remove</CommandAction>}
          </span>
        }
      >
        <Schedule lamps={light.lamps} picked={index} onPick={pick} />
        {lamp ? (
          <LampFields key={lamp.id} lamp={lamp} path={`/light/lamps/${index}`} />
        ) : (
          <p className="hint">No lamp is lit; the surroundings alone give light.</p>
        )}
      </Group>
      <Surroundings surround={light.surround} />
      <Group
        title="Exposure"
        help="How bright the whole picture is developed, in stops; the light stays as it is."
        actions={<span className="hint">{shown(2 ** light.exposure)} × the light</span>}
      >
        <NumberField field="Light.exposure" path="/light/exposure" value={light.exposure} />
      </Group>
    </>
  );
}
