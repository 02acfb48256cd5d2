import { Fragment, useState } from "react";
import { ChoiceField } from "../../fields/ChoiceField";
import { NumberField } from "../../fields/NumberField";
import { useDesk } from "../../live/desk";
import { liveNow, useDocument, useLive } from "../../live/store";
import { useWorkshop } from "../../live/workshop";
import { Menu, MenuItem, MenuRule } from "../../ui/Menu";
import { Columns, Ticks } from "../../ui/Rows";
import { Section } from "../../ui/Section";
import { TextAction } from "../../ui/TextAction";
import { Tick } from "../../ui/Tick";

/** The picture's size: typed, or one of the trade's; what is on it may be fitted to the new one. */
export function CanvasGroup() {
  const { canvas } = useDocument();
  const edit = liveNow().edit;
  const { guides, rulers, showGuides, showRulers } = useDesk();
  const per = useLive((live) => live.piece?.drawings.px_per_unit ?? 1);
  const spoken = { unit: canvas.unit, per };
  const sizes = useWorkshop().canvases;
  const [fit, setFit] = useState(true);
  const families = [...new Set(sizes.map((size) => size.family))];
  return (
    <Section
      title="Canvas"
      help="Size and print resolution of the picture. Safe areas are those of broadcasting, or the bleed on paper."
      actions={
        <Menu align="end" trigger={<TextAction>Standard sizes</TextAction>}>
          {families.map((family, number) => (
            <Fragment key={family}>
              {number > 0 && <MenuRule />}
              {sizes
                .filter((size) => size.family === family)
                .map((size) => (
                  <MenuItem
                    key={size.name}
                    onSelect={() => edit([{ op: fit ? "recut" : "replace", path: "/canvas", value: size.canvas }])}
                  >
                    {size.name} <small className="text-ink-3">{`${size.canvas.width} × ${size.canvas.height} px`}</small>
                  </MenuItem>
                ))}
            </Fragment>
          ))}
        </Menu>
      }
    >
      <Columns>
        <NumberField field="Canvas.width" path="/canvas/width" value={canvas.width} spoken={spoken} />
        <NumberField field="Canvas.height" path="/canvas/height" value={canvas.height} spoken={spoken} />
        <NumberField field="Canvas.ppi" path="/canvas/ppi" value={canvas.ppi} />
      </Columns>
      <ChoiceField label="Units" path="/canvas/unit" value={canvas.unit} options={["px", "mm", "in", "pt"]} />
      <Ticks stacked>
        <Tick label="Guides: middle, thirds, safe areas" on={guides} onChange={showGuides} />
        <Tick label="Rulers" on={rulers} onChange={showRulers} />
        <Tick label="Standard sizes scale the picture to fit" on={fit} onChange={setFit} />
      </Ticks>
    </Section>
  );
}
