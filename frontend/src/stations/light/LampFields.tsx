import { Crosshair } from "lucide-react";
import type { Lamp } from "../../api/client";
import { FieldsOf } from "../../fields/FieldsOf";
import { shown } from "../../fields/NumberField";
import { deskNow, useDesk } from "../../live/desk";
import { liveNow } from "../../live/store";
import { Choice } from "../../ui/Choice";
import { FoldingSection } from "../../ui/Section";
import { Tick } from "../../ui/Tick";

const KINDS = ["softbox", "strip", "round", "bulb", "sun"] as const;
const WHITE = "#ffffff";

/** The numbers of one lamp. */
export function LampFields({ lamp, path }: { lamp: Lamp; path: string }) {
  const edit = liveNow().edit;
  const tool = useDesk((desk) => desk.tool);
  const { aim } = lamp;
  return (
    <>
      <Choice
        label="Kind of lamp"
        hideLabel
        value={lamp.kind}
        options={KINDS}
        onChoose={(kind) => edit([{ op: "kind", path, value: kind }])}
      />
      <FieldsOf
        model="Lamp"
        path={path}
        values={lamp}
        labels={lamp.kind === "round" || lamp.kind === "bulb" ? { width: "Diameter" } : undefined}
      />
      <button
        type="button"
        className="my-1.5 flex min-h-7 w-full items-center justify-center gap-2 rounded-sheet border-2 border-verdigris bg-verdigris-wash font-semibold text-verdigris-deep aria-pressed:bg-verdigris aria-pressed:text-white pointer-coarse:min-h-11"
        aria-pressed={tool === "highlight"}
        onClick={() => deskNow().take(tool === "highlight" ? null : "highlight")}
      >
        <Crosshair size={16} aria-hidden="true" />
        Place highlight on the stage
      </button>
      <FoldingSection
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
        <FieldsOf model="Lamp" group="aim" path={path} values={lamp} />
        <Tick
          label="picked colour"
          on={lamp.colour !== null && lamp.colour !== undefined}
          onChange={(on) => edit([{ op: "replace", path: `${path}/colour`, value: on ? WHITE : null }])}
        />
        <FieldsOf model="Aim" path={`${path}/aim`} values={aim} />
      </FoldingSection>
    </>
  );
}
