import { Crosshair } from "lucide-react";
import type { Lamp } from "../../api/client";
import { ColourField } from "../../fields/ColourField";
import { FieldsOf } from "../../fields/FieldsOf";
import { NumberField, shown } from "../../fields/NumberField";
import { TextField } from "../../fields/TextField";
import { deskNow, useDesk } from "../../live/desk";
import { liveNow } from "../../live/store";
import { Choice } from "../../ui/Choice";
import { Fold } from "../../ui/Fold";
import { Columns } from "../../ui/Rows";
import { Tick } from "../../ui/Tick";

const KINDS = ["softbox", "strip", "round", "bulb", "sun"] as const;
const WHITE = "#ffffff";

/** The numbers of one lamp. */
export function LampFields({ lamp, path }: { lamp: Lamp; path: string }) {
  const edit = liveNow().edit;
  const tool = useDesk((desk) => desk.tool);
  const replace = (name: string, value: unknown) => edit([{ op: "replace", path: `${path}/${name}`, value }]);
  const field = (name: keyof Lamp, label?: string) => (
    <NumberField field={`Lamp.${name}`} label={label} path={`${path}/${name}`} value={lamp[name] as number} />
  );
  const { aim } = lamp;
  return (
    <>
      <Choice
        label="Kind of lamp"
        hideLabel
        value={lamp.kind}
        options={KINDS}
        // A strip is a softbox of another shape; one that is still square is made narrow.
        onChoose={(kind) =>
          edit([
            { op: "replace", path: `${path}/kind`, value: kind },
            ...(kind === "strip" && lamp.width === lamp.height
              ? [{ op: "replace" as const, path: `${path}/width`, value: Number((lamp.height / 6).toFixed(1)) }]
              : []),
          ])
        }
      />
      <Columns>
        {field("bearing")}
        {field("elevation")}
        {field("strength")}
        {lamp.colour ? <ColourField label="Colour" path={`${path}/colour`} value={lamp.colour} /> : field("kelvin")}
        {lamp.kind === "sun" ? (
          field("angular_size")
        ) : (
          <>
            {field("width", lamp.kind === "round" || lamp.kind === "bulb" ? "Diameter" : undefined)}
            {(lamp.kind === "softbox" || lamp.kind === "strip") && field("height")}
            {field("distance")}
          </>
        )}
      </Columns>
      <button
        type="button"
        className="my-1.5 flex min-h-7 w-full items-center justify-center gap-2 rounded-sheet border-2 border-verdigris bg-verdigris-wash font-semibold text-verdigris-deep aria-pressed:bg-verdigris aria-pressed:text-white pointer-coarse:min-h-11"
        aria-pressed={tool === "highlight"}
        onClick={() => deskNow().take(tool === "highlight" ? null : "highlight")}
      >
        <Crosshair size={16} aria-hidden="true" />
        Place highlight on the stage
      </button>
      <Fold
        title="Aim and options"
        help="Where the lamp points, its roll, whether it stays with the viewer or with the letters, and whether it shows in reflections."
        summary={[
          aim.x || aim.y || aim.z ? `${shown(aim.x)}, ${shown(aim.y)}, ${shown(aim.z)}` : "at the middle",
          lamp.fixed_to === "lettering" ? "turns along" : "",
          lamp.in_reflections ? "" : "unmirrored",
        ]
          .filter(Boolean)
          .join(", ")}
      >
        <TextField label="Name" path={`${path}/name`} value={lamp.name} />
        <Choice
          label="Fixed to"
          value={lamp.fixed_to}
          options={["viewer", "lettering"]}
          onChoose={(value) => replace("fixed_to", value)}
        />
        <div className="flex flex-wrap items-center justify-between gap-x-3 gap-y-1 py-[5px]">
          <Tick label="on" on={lamp.on} onChange={(on) => replace("on", on)} />
          <Tick label="in reflections" on={lamp.in_reflections} onChange={(on) => replace("in_reflections", on)} />
          <Tick
            label="picked colour"
            on={lamp.colour !== null && lamp.colour !== undefined}
            onChange={(on) => replace("colour", on ? WHITE : null)}
          />
        </div>
        <FieldsOf model="Aim" path={`${path}/aim`} values={aim} />
        {lamp.kind !== "sun" && lamp.kind !== "bulb" && field("roll")}
      </Fold>
    </>
  );
}
