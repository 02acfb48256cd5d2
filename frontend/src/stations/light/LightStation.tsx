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
        help="Each lamp has a bearing (120° is upper left) and an elevation above the face. The same lamps make all shading, shadows and reflections."
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
          <p className="hint">There are no lamps; only the surroundings give light.</p>
        )}
      </Group>
      <Surroundings surround={light.surround} />
      <Group
        title="Exposure"
        help="Brightness of the whole picture, in stops. The light itself stays as it is."
        actions={<span className="hint">{shown(2 ** light.exposure)} × the light</span>}
      >
        <NumberField field="Light.exposure" path="/light/exposure" value={light.exposure} />
      </Group>
    </>
  );
}
