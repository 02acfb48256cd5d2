import { DropdownMenu } from "radix-ui";
import { Fragment, useState } from "react";
import { Group } from "../../components/Group";
import { NumberField } from "../../components/NumberField";
import { Tick } from "../../components/Tick";
import { useDocument, useLive } from "../../live/store";
import { useWorkshop } from "../../live/workshop";

/** The picture's size: typed, or one of the trade's; what is on it may be fitted to the new one. */
export function CanvasGroup() {
  const { canvas } = useDocument();
  const edit = useLive.getState().edit;
  const sizes = useWorkshop()?.canvases ?? [];
  const [fit, setFit] = useState(true);
  const families = [...new Set(sizes.map((size) => size.family))];
  return (
    <Group
      title="Canvas"
      actions={
        <DropdownMenu.Root>
          <DropdownMenu.Trigger className="text-action">Sizes of the trade</DropdownMenu.Trigger>
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
        <NumberField field="Canvas.width" path="/canvas/width" value={canvas.width} />
        <NumberField field="Canvas.height" path="/canvas/height" value={canvas.height} />
        <NumberField field="Canvas.ppi" path="/canvas/ppi" value={canvas.ppi} />
      </div>
      <Tick label="A size of the trade keeps the whole picture" on={fit} onChange={setFit} />
    </Group>
  );
}
