import type { Lamp } from "../../api/client";
import { CommandItems } from "../../commands/CommandItems";
import { shown } from "../../fields/NumberField";
import { shownColour, usePaints } from "../../live/paints";
import { ContextMenu } from "../../ui/Menu";
import { Swatch } from "../../ui/Swatch";

interface Props {
  lamps: readonly Lamp[];
  picked: number;
  onPick: (index: number) => void;
}

const HEAD = "px-1 py-0.5 align-bottom text-caption font-normal text-ink-3";

/** The lamp schedule: every lamp's numbers in one table. */
export function Schedule({ lamps, picked, onPick }: Props) {
  const paints = usePaints();
  return (
    <table data-part="schedule" className="mb-1.5 w-full border-collapse">
      <thead>
        <tr>
          <th className={`${HEAD} text-left`}>Lamp</th>
          <th className={`${HEAD} text-right`}>Bearing, elevation</th>
          <th className={`${HEAD} text-right`}>Stops</th>
          <th className={`${HEAD} text-right`}>Colour</th>
        </tr>
      </thead>
      <tbody>
        {lamps.map((lamp, index) => (
          <tr
            key={lamp.id}
            data-picked={index === picked || undefined}
            className={`group/lamp border-t border-rule data-picked:bg-sheet data-picked:shadow-[inset_3px_0_var(--color-verdigris)] ${lamp.on ? "" : "text-ink-3"}`}
          >
            <th scope="row">
              <ContextMenu
                onOpen={() => onPick(index)}
                trigger={
                  <button
                    type="button"
                    className="flex w-full items-center gap-2 px-1.5 py-1 text-left font-semibold"
                    aria-pressed={index === picked}
                    onClick={() => onPick(index)}
                  >
                    <span className="grid size-5 shrink-0 place-items-center rounded-full border-[1.5px] border-ink text-caption group-data-picked/lamp:border-verdigris group-data-picked/lamp:bg-verdigris group-data-picked/lamp:text-white">
                      {index + 1}
                    </span>
                    <span>
                      {lamp.name}
                      <small className="block text-caption font-normal text-ink-3">{lamp.on ? lamp.kind : "off"}</small>
                    </span>
                  </button>
                }
              >
                <CommandItems
                  ids={["highlight", "switch-lamp", "lamp-alone", "-", "add-lamp", "add-lamp-by-highlight", "remove-lamp"]}
                />
              </ContextMenu>
            </th>
            <td className="p-1 text-right font-[650]">
              {shown(lamp.bearing)}° / {shown(lamp.elevation)}°
            </td>
            <td className="p-1 text-right font-[650]">{shown(lamp.strength)}</td>
            <td className="p-1 text-right font-[650]">
              {lamp.colour ? (
                <Swatch of="row" colour={shownColour(lamp.colour, paints)} title={lamp.colour} className="align-middle" />
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
