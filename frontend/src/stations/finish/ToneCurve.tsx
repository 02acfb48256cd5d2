import { type KeyboardEvent, useRef } from "react";
import type { Effect } from "../../api/client";
import { arrowOf, useBurst } from "../../components/nudging";
import { liveNow, useLive } from "../../live/store";
import { useDrag } from "../../live/useDrag";
import { Drawing, Handle } from "../../ui/Drawing";

const [WIDTH, HEIGHT, PAD] = [286, 150, 14];
/** The tones, in %, of which the curve says what they become. */
const TONES = [0, 25, 50, 75, 100] as const;

interface Props {
  tone: Extract<Effect, { kind: "tone" }>;
  /** The place of the effect in the stack. */
  at: number;
}

/** The curve of a tone: drag one of its five points up or down, or nudge it with the arrow keys. */
export function ToneCurve({ tone, at }: Props) {
  const curve = useLive((live) => live.piece?.drawings.curves[at]) ?? [];
  const { edit } = liveNow();
  const burst = useBurst();
  const frame = useRef<SVGSVGElement>(null);
  const x = (share: number) => PAD + share * (WIDTH - 2 * PAD);
  const y = (share: number) => HEIGHT - PAD - share * (HEIGHT - 2 * PAD);

  function put(of: (typeof TONES)[number], value: number, gesture: string, moving: boolean) {
    const held = Number(Math.min(Math.max(value, 0), 100).toFixed(1));
    edit([{ op: "replace", path: `/finish/${at}/at_${of}`, value: held }], { gesture, moving });
  }

  const hold = useDrag({
    threshold: 0,
    begin: (_, of: (typeof TONES)[number]) => of,
    move(of, event, _, gesture) {
      const box = (frame.current as SVGSVGElement).getBoundingClientRect();
      const down = ((event.clientY - box.top) / box.height) * HEIGHT;
      put(of, (100 * (HEIGHT - PAD - down)) / (HEIGHT - 2 * PAD), gesture, true);
    },
  });

  return (
    <Drawing
      ref={frame}
      className="mt-1 touch-none"
      width={WIDTH}
      height={HEIGHT}
      role="group"
      aria-label="Curve from dark to light"
    >
      <path className="fill-none stroke-rule" d={`M${x(0)} ${y(0)}H${x(1)}V${y(1)}H${x(0)}ZL${x(1)} ${y(1)}`} />
      <path
        className="fill-none stroke-ink stroke-[1.6]"
        d={curve.map(([from, to], i) => `${i ? "L" : "M"}${x(from).toFixed(1)} ${y(to).toFixed(1)}`).join("")}
      />
      {TONES.map((of) => (
        <Handle
          key={of}
          cx={x(of / 100)}
          cy={y(Math.min(Math.max(tone[`at_${of}`], 0), 100) / 100)}
          r={5}
          tabIndex={0}
          role="button"
          aria-label={`What ${of} % becomes. Arrow keys move it.`}
          {...hold(of)}
          onKeyDown={(event: KeyboardEvent) => {
            const way = arrowOf(event);
            if (!way) return;
            event.preventDefault();
            put(of, tone[`at_${of}`] + (way[1] || way[0]) * (event.shiftKey ? 10 : 1), burst(), false);
          }}
        />
      ))}
    </Drawing>
  );
}
