import { Slider } from "radix-ui";

interface Props {
  label: string;
  value: number;
  low: number;
  high: number;
  step: number;
  onBegin: () => void;
  onSlide: (to: number) => void;
  onEnd: () => void;
}

/**
 * The comfortable range as a ruled line to slide along: a bar to the value, from zero where the range has both
 * signs; dashes where the value, which may be typed, lies past an end.
 */
export function RangeRule({ label, value, low, high, step, onBegin, onSlide, onEnd }: Props) {
  const at = (v: number) => Math.min(Math.max(((v - low) / (high - low)) * 100, 0), 100);
  const zero = low < 0 && high > 0 ? at(0) : 0;
  const here = at(value);
  const beyond = value > high || value < low;
  const line = beyond
    ? "bg-[repeating-linear-gradient(90deg,var(--color-rule-firm)_0_4px,transparent_4px_8px)]"
    : "bg-[linear-gradient(var(--color-rule-firm))]";
  return (
    <Slider.Root
      data-part="range"
      className={`relative flex h-[9px] cursor-pointer touch-none items-center bg-[length:100%_1px] bg-[position:0_4px] bg-no-repeat pointer-coarse:h-6 pointer-coarse:bg-center ${line}`}
      min={low}
      max={high}
      step={step}
      value={[Math.min(Math.max(value, low), high)]}
      onPointerDown={onBegin}
      onKeyDown={onBegin}
      onValueChange={([to]) => to !== undefined && onSlide(to)}
      onValueCommit={onEnd}
    >
      <span
        className="pointer-events-none absolute h-[3px] bg-ink-2 group-focus-within/number:bg-verdigris"
        style={{ left: `${Math.min(zero, here)}%`, width: `${Math.abs(here - zero)}%` }}
      />
      <span
        className="pointer-events-none absolute -ml-px h-[9px] w-0.5 bg-ink group-focus-within/number:bg-verdigris"
        style={{ left: `${here}%` }}
      />
      <Slider.Track className="h-full grow" />
      {/* The mark is drawn by itself: the thumb of the slider does not reach the ends of the line. */}
      <Slider.Thumb
        aria-label={label}
        tabIndex={-1}
        className="block h-[9px] w-2 rounded-sheet outline-none hover:bg-verdigris/30 focus-visible:outline-2 focus-visible:outline-verdigris pointer-coarse:size-6"
      />
    </Slider.Root>
  );
}
