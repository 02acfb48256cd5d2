import { ToggleGroup } from "radix-ui";
import type { Bevel } from "../../api/client";
import { useWorkshop } from "../../live/workshop";

type Profile = Bevel["profile"];

const [WIDTH, HEIGHT] = [40, 32];
const EDGE = { left: 10, right: 36, top: 6, foot: 24, bottom: 30 };

/** The outline of a block whose right upper edge is the moulding. */
function drawn(points: readonly [number, number][]): string {
  const x = (t: number) => EDGE.right - t * (EDGE.right - EDGE.left - 4);
  const y = (rise: number) => EDGE.foot - rise * (EDGE.foot - EDGE.top);
  const curve = points.map(([t, rise]) => `L${x(t).toFixed(1)} ${y(rise).toFixed(1)}`).join("");
  return `M${EDGE.right} ${EDGE.bottom}${curve}L4 ${EDGE.top}V${EDGE.bottom}Z`;
}

/** The profiles as drawn mouldings. */
export function Mouldings({ value, onChoose }: { value: Profile; onChoose: (profile: Profile) => void }) {
  const mouldings = useWorkshop().mouldings;
  return (
    <ToggleGroup.Root
      type="single"
      className="flex flex-wrap gap-0.5 py-1"
      aria-label="Profile"
      value={value}
      onValueChange={(next) => next && onChoose(next as Profile)}
    >
      {mouldings.map(({ name, points }) => (
        <ToggleGroup.Item
          key={name}
          value={name}
          className="flex min-w-min flex-[1_0_38px] flex-col items-center rounded-sheet border-2 border-transparent pt-1 pb-[3px] text-caption [font-stretch:72%] hover:bg-paper-recess data-[state=on]:border-verdigris data-[state=on]:bg-sheet data-[state=on]:font-bold"
        >
          <svg className="mx-auto mb-px w-[34px]" viewBox={`0 0 ${WIDTH} ${HEIGHT}`} aria-hidden="true">
            <path d={drawn(points)} fill="var(--color-rule)" stroke="var(--color-ink)" strokeWidth="1.4" />
          </svg>
          {name}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
