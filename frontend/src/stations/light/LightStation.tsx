import { useState } from "react";
import type { Lamp } from "../../api/client";
import { Choice } from "../../components/Choice";
import { freshId } from "../../components/freshId";
import { Group } from "../../components/Group";
import { NumberField, shown } from "../../components/NumberField";
import { Tick } from "../../components/Tick";
import { useDocument, useLive } from "../../live/store";
import { LightingPlot } from "./LightingPlot";

/** The lamps, their schedule and the surroundings. */
export function LightStation() {
  const { light } = useDocument();
  const edit = useLive.getState().edit;
  const [picked, setPicked] = useState(0);
  const index = Math.min(picked, light.lamps.length - 1);
  const lamp = light.lamps[index];

  function add() {
    const id = freshId("lamp", light.lamps);
    edit([
      {
        op: "add",
        path: "/light/lamps/-",
        value: { id, name: id.replace("-", " "), bearing: (120 + 75 * light.lamps.length) % 360, strength: -1 },
      },
    ]);
    setPicked(light.lamps.length);
  }

  return (
    <>
      <LightingPlot picked={lamp?.id} onPick={(id) => setPicked(light.lamps.findIndex((entry) => entry.id === id))} />
      <Group
        title="Lamps"
        actions={
          <span className="row-actions">
            <button type="button" className="text-action" onClick={add}>
              Add a lamp
            </button>
            {lamp && (
              <button
                type="button"
                className="text-action"
                onClick={() => edit([{ op: "remove", path: `/light/lamps/${index}` }])}
              >
                Remove
              </button>
            )}
          </span>
        }
      >
        <Schedule lamps={light.lamps} picked={index} onPick={setPicked} />
        {lamp ? (
          <LampNumbers lamp={lamp} path={`/light/lamps/${index}`} />
        ) : (
          <p className="hint">No lamp is lit; the surroundings alone give light.</p>
        )}
      </Group>
      <Group title="Surroundings">
        <Choice
          label="Kind"
          value={light.surround.kind}
          options={["studio", "plain"]}
          onChoose={(kind) => edit([{ op: "replace", path: "/light/surround/kind", value: kind }])}
        />
        <div className="pair">
          <NumberField field="Surround.strength" path="/light/surround/strength" value={light.surround.strength} />
          <NumberField field="Light.exposure" path="/light/exposure" value={light.exposure} />
        </div>
      </Group>
    </>
  );
}

function Schedule({ lamps, picked, onPick }: { lamps: readonly Lamp[]; picked: number; onPick: (index: number) => void }) {
  return (
    <table className="schedule">
      <thead>
        <tr>
          <th>Lamp</th>
          <th>Bearing</th>
          <th>Elevation</th>
          <th>Stops</th>
        </tr>
      </thead>
      <tbody>
        {lamps.map((lamp, index) => (
          <tr key={lamp.id} data-picked={index === picked || undefined} className={lamp.on ? "" : "off"}>
            <th scope="row">
              <button type="button" aria-pressed={index === picked} onClick={() => onPick(index)}>
                <span className="lamp-number">{index + 1}</span>
                <span>
                  {lamp.name}
                  <small>{lamp.kind}</small>
                </span>
              </button>
            </th>
            <td>{shown(lamp.bearing)}°</td>
            <td>{shown(lamp.elevation)}°</td>
            <td>{shown(lamp.strength)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function LampNumbers({ lamp, path }: { lamp: Lamp; path: string }) {
  const edit = useLive.getState().edit;
  return (
    <>
      <div className="choice-row">
        <Choice
          label="Kind of lamp"
          hideLabel
          value={lamp.kind}
          options={["softbox", "round", "sun"]}
          onChoose={(kind) => edit([{ op: "replace", path: `${path}/kind`, value: kind }])}
        />
        <Tick label="on" on={lamp.on} onChange={(on) => edit([{ op: "replace", path: `${path}/on`, value: on }])} />
      </div>
      <div className="pair">
        <NumberField field="Lamp.bearing" path={`${path}/bearing`} value={lamp.bearing} />
        <NumberField field="Lamp.elevation" path={`${path}/elevation`} value={lamp.elevation} />
        <NumberField field="Lamp.strength" path={`${path}/strength`} value={lamp.strength} />
        <NumberField field="Lamp.kelvin" path={`${path}/kelvin`} value={lamp.kelvin} />
        {lamp.kind === "sun" ? (
          <NumberField field="Lamp.angular_size" path={`${path}/angular_size`} value={lamp.angular_size} />
        ) : (
          <>
            <NumberField
              field="Lamp.width"
              label={lamp.kind === "round" ? "Diameter" : undefined}
              path={`${path}/width`}
              value={lamp.width}
            />
            {lamp.kind === "softbox" && <NumberField field="Lamp.height" path={`${path}/height`} value={lamp.height} />}
            <NumberField field="Lamp.distance" path={`${path}/distance`} value={lamp.distance} />
          </>
        )}
      </div>
    </>
  );
}
