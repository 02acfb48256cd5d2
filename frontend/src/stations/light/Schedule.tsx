import type { Lamp } from "../../api/client";
import { CommandItems } from "../../commands/CommandItems";
import { shown } from "../../fields/NumberField";
import { ContextMenu } from "../../ui/Menu";

interface Props {
  lamps: readonly Lamp[];
  picked: number;
  onPick: (index: number) => void;
}

/** The lamp schedule: every lamp's numbers in one table. */
export function Schedule({ lamps, picked, onPick }: Props) {
  return (
    <table className="schedule">
      <thead>
        <tr>
          <th>Lamp</th>
          <th>Bearing, elevation</th>
          <th>Stops</th>
          <th>Colour</th>
        </tr>
      </thead>
      <tbody>
        {lamps.map((lamp, index) => (
          <tr key={lamp.id} data-picked={index === picked || undefined} className={lamp.on ? "" : "off"}>
            <th scope="row">
              <ContextMenu
                onOpen={() => onPick(index)}
                trigger={
                  <button type="button" aria-pressed={index === picked} onClick={() => onPick(index)}>
                    <span className="lamp-number">{index + 1}</span>
                    <span>
                      {lamp.name}
                      <small>{lamp.on ? lamp.kind : "off"}</small>
                    </span>
                  </button>
                }
              >
                <CommandItems ids={["highlight", "switch-lamp", "-", "add-lamp", "remove-lamp"]} />
              </ContextMenu>
            </th>
            <td>
              {shown(lamp.bearing)}° / {shown(lamp.elevation)}°
            </td>
            <td>{shown(lamp.strength)}</td>
            <td>
              {lamp.colour ? (
                <span className="swatch small" style={{ background: lamp.colour }} title={lamp.colour} />
              ) : (
                `${lamp.kelvin} K`
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
