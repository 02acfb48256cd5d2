import { DropdownMenu } from "radix-ui";
import { Fragment, useState } from "react";
import { Choice } from "../../components/Choice";
import { Group } from "../../components/Group";
import { Tick } from "../../components/Tick";
import { NumberField } from "../../fields/NumberField";
import { useDesk } from "../../live/desk";
import { liveNow, useDocument, useLive } from "../../live/store";
import { useWorkshop } from "../../live/workshop";

/** The picture's size: typed, or one of the trade's; what is on it may be fitted to the new one. */
export function CanvasGroup() {
  const { canvas } = useDocument();
  const edit = liveNow().edit;
  const { guides, rulers, showGuides, showRulers } = useDesk();
  const per = useLive((live) => live.piece?.drawings.px_per_unit ?? 1);
  const spoken = { unit: canvas.unit, per };
  const sizes = useWorkshop()?.canvases ?? [];
  const [fit, setFit] = useState(true);
  const families = [...new Set(sizes.map((size) => size.family))];
  return (
    <Group
      title="Canvas"
      help="Size and print resolution of the picture. Safe areas are those of broadcasting, or the bleed on paper."
      actions={
        <DropdownMenu.Root>
          <DropdownMenu.Trigger className="text-action">Standard sizes</DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content className="popover menu" align="end" sideOffset={4}>
              {families.map((family, number) => (
                <Fragment key={family}>
                  {number > 0 && <DropdownMenu.Separator />}
                  {sizes
                    .filter((size) => size.family === family)
                    .map((size) => (
                      <DropdownMenu.Item
                        key={size.name}
                        onSelect={() => edit([{ op: fit ? "recut" : "replace", path: "/canvas", value: size.canvas }])}
                      >
                        {size.name} <small>{`${size.canvas.width} × ${size.canvas.height} px`}</small>
                      </DropdownMenu.Item>
                    ))}
                </Fragment>
              ))}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      }
    >
      <div className="pair">
        <NumberField field="Canvas.width" path="/canvas/width" value={canvas.width} spoken={spoken} />
        <NumberField field="Canvas.height" path="/canvas/height" value={canvas.height} spoken={spoken} />
        <NumberField field="Canvas.ppi" path="/canvas/ppi" value={canvas.ppi} />
      </div>
      <Choice
        label="Units"
        value={canvas.unit}
        options={["px", "mm", "in", "pt"]}
        onChoose={(unit) => edit([{ op: "replace", path: "/canvas/unit", value: unit }])}
      />
      <div className="ticks stacked">
        <Tick label="Guides: middle, thirds, safe areas" on={guides} onChange={showGuides} />
        <Tick label="Rulers" on={rulers} onChange={showRulers} />
        <Tick label="Standard sizes scale the picture to fit" on={fit} onChange={setFit} />
      </div>
    </Group>
  );
}
