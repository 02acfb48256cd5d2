import { Paints } from "../../components/Paints";
import { ChoiceField } from "../../fields/ChoiceField";
import { FieldsOf } from "../../fields/FieldsOf";
import { useDocument } from "../../live/store";
import { Hint } from "../../ui/Notes";
import { Section } from "../../ui/Section";

const SAYS = {
  none: "The colour alone, just as picked. Nothing catches a shadow.",
  wall: "A wall behind the letters, parallel to their faces; it turns with them and takes the lamps' light and shadow.",
  floor: "A level floor under the letters that sweeps up into a wall behind them.",
};

/** What stands behind the lettering. */
export function BackdropStation() {
  const { backdrop } = useDocument();
  return (
    <>
      <Paints />
      <Section title="Colour" help="The colour behind everything, and the paint of the ground.">
        <FieldsOf model="Backdrop" path="/backdrop" values={backdrop} />
      </Section>
      <Section
        title="Ground"
        help="A wall stands right behind the letters and turns with them. A floor lies level under them and sweeps up behind."
      >
        <ChoiceField
          label="Ground"
          hideLabel
          path="/backdrop/ground"
          value={backdrop.ground}
          options={["none", "wall", "floor"]}
        />
        <Hint>{SAYS[backdrop.ground]}</Hint>
        <FieldsOf model="Backdrop" group="ground" path="/backdrop" values={backdrop} />
      </Section>
    </>
  );
}
