import { type KeyboardEvent, useRef, useState } from "react";
import type { PieceState } from "../../api/client";
import { arrowOf, stride, useBurst } from "../../components/nudging";
import { liveNow, useDocument, useLive } from "../../live/store";
import { useDrag } from "../../live/useDrag";
import { AxisLine, Caption, Dimension, Drawing } from "../../ui/Drawing";

type Place = PieceState["drawings"]["lamps"][number];
type Vector = readonly [number, number, number];

const [WIDTH, HEIGHT] = [286, 196];
const NUDGE_PX = 20;

/** A view of the plot: where the world's middle is drawn, the room around it, and which axes run across and down. */
interface Plot {
  name: "plan" | "elevation";
  at: readonly [number, number];
  /** The world's two axes in the drawing: [axis, sign] across and down. */
  across: readonly [0 | 1 | 2, 1 | -1];
  down: readonly [0 | 1 | 2, 1 | -1];
}

const PLOTS: readonly Plot[] = [
  { name: "plan", at: [82, 50], across: [0, 1], down: [2, 1] },
  { name: "elevation", at: [178, 108], across: [2, 1], down: [1, -1] },
];

/** Room in px of the drawing: beside the middle, in front of the letters, above and below it, behind the letters. */
const ROOM = { side: 66, front: 92, up: 74, behind: 14 };

function drawn(plot: Plot, scale: number, point: Vector): [number, number] {
  return [plot.at[0] + plot.across[1] * point[plot.across[0]] * scale, plot.at[1] + plot.down[1] * point[plot.down[0]] * scale];
}

/** Px of the drawing per px of the world, so that every lamp and the letters fit. */
function fitting(lamps: readonly Place[], width: number): number {
  const most = (axis: 0 | 1 | 2, sign: 1 | -1 | 0) =>
    Math.max(1, ...lamps.map(({ centre }) => (sign === 0 ? Math.abs(centre[axis]) : sign * centre[axis])));
  return Math.min(
    ROOM.side / Math.max(most(0, 0), width / 2),
    ROOM.front / most(2, 1),
    ROOM.up / most(1, 0),
    ROOM.behind / most(2, -1),
    0.2,
  );
}

/** The lighting plot, from above and from the side; lamps are dragged in both. Its numbers are the server's. */
export function LightingPlot({ picked, onPick }: { picked: number; onPick: (index: number) => void }) {
  const lamps = useLive((live) => live.piece?.drawings.lamps ?? []);
  const view = useLive((live) => live.piece?.drawings.view);
  const { light } = useDocument();
  const { edit } = liveNow();
  const svg = useRef<SVGSVGElement>(null);
  // While a lamp is dragged the plot keeps its scale, however far the lamp goes.
  const [kept, setKept] = useState<number | null>(null);
  const burst = useBurst();
  const hold = useDrag({
    begin(_, { index, plot }: { index: number; plot: Plot }) {
      onPick(index);
      setKept(scale);
      const lamp = lamps[index];
      return lamp ? { index, plot, scale, centre: lamp.centre } : null;
    },
    move({ index, plot, scale, centre }, _, [dx, dy], gesture) {
      // The lamp moves by as much as the hand, wherever on it the hand took hold.
      const world = WIDTH / (svg.current as SVGSVGElement).getBoundingClientRect().width / scale;
      const point: [number, number, number] = [...centre];
      point[plot.across[0]] += plot.across[1] * dx * world;
      point[plot.down[0]] += plot.down[1] * dy * world;
      stand(index, point, gesture, true);
    },
    end: () => setKept(null),
  });
  if (!view) return null;
  const scale = kept ?? fitting(lamps, view.width);
  const bar = 10 ** Math.floor(Math.log10(60 / scale));

  function stand(index: number, point: Vector, gesture: string, moving: boolean) {
    const value = point.map((v) => Number(v.toFixed(1)));
    edit([{ op: "stand", path: `/light/lamps/${index}`, value }], { gesture, moving });
  }

  function onKeyDown(event: KeyboardEvent, index: number, plot: Plot) {
    const way = arrowOf(event);
    if (!way) {
      if (event.key === "Enter" || event.key === " ") onPick(index);
      return;
    }
    event.preventDefault();
    const far = NUDGE_PX * stride(event);
    const lamp = lamps[index];
    if (!lamp) return;
    const point: [number, number, number] = [...lamp.centre];
    point[plot.across[0]] += plot.across[1] * way[0] * far;
    point[plot.down[0]] += plot.down[1] * -way[1] * far;
    stand(index, point, burst(), false);
  }

  return (
    <Drawing ref={svg} width={WIDTH} height={HEIGHT} role="group" aria-label="Lighting plot">
      <Caption x={12} y={18}>
        PLAN
      </Caption>
      <Caption x={WIDTH - 12} y={18} textAnchor="end">
        ELEVATION
      </Caption>
      {PLOTS.map((plot) => (
        <Letters key={plot.name} plot={plot} scale={scale} width={view.width} height={view.height} turn={view.turn} />
      ))}
      {PLOTS.map((plot) =>
        // The picked lamp is drawn last, over the others.
        [...lamps.entries()]
          .sort(([a], [b]) => Number(a === picked) - Number(b === picked))
          .map(([index, lamp]) => (
            <LampMark
              key={`${plot.name} ${lamp.id}`}
              lamp={lamp}
              name={light.lamps[index]?.name ?? lamp.id}
              number={index + 1}
              plot={plot}
              scale={scale}
              picked={index === picked}
              hold={hold({ index, plot })}
              onKeyDown={(event) => onKeyDown(event, index, plot)}
            />
          )),
      )}
      <Dimension line={`M12 ${HEIGHT - 14}v4h${(bar * scale).toFixed(1)}v-4`} x={16 + bar * scale} y={HEIGHT - 9}>
        {`${bar} px`}
      </Dimension>
    </Drawing>
  );
}

/** The letters as they are turned, and the line of sight. */
function Letters({
  plot,
  scale,
  width,
  height,
  turn,
}: {
  plot: Plot;
  scale: number;
  width: number;
  height: number;
  turn: Vector;
}) {
  const [x, y] = plot.at;
  const plan = plot.name === "plan";
  const half = ((plan ? width : height) * scale) / 2;
  const ahead = ROOM.front + 12;
  return (
    <>
      <AxisLine d={plan ? `M${x} ${y}v${ahead}` : `M${x} ${y}h${ahead - 8}`} />
      <g transform={`translate(${x} ${y}) rotate(${plan ? -turn[1] : turn[0]})`}>
        {plan ? (
          <path d={`M${-half} 0H${half}`} stroke="var(--color-ink)" strokeWidth="5" />
        ) : (
          <path d={`M0 ${-half}V${half}`} stroke="var(--color-ink)" strokeWidth="5" />
        )}
      </g>
      <g transform={plan ? `translate(${x} ${y + ahead})` : `translate(${x + ahead - 8} ${y}) rotate(-90)`}>
        <path className="fill-sheet stroke-ink stroke-[1.5]" d="M-4 0h8l1.5 9h-11z" />
      </g>
    </>
  );
}

interface MarkProps {
  lamp: Place;
  name: string;
  number: number;
  plot: Plot;
  scale: number;
  picked: boolean;
  hold: object;
  onKeyDown: (event: KeyboardEvent) => void;
}

/** One lamp: what it spans, its way to its aim, and its number. */
function LampMark({ lamp, name, number, plot, scale, picked, hold, onKeyDown }: MarkProps) {
  const [cx, cy] = drawn(plot, scale, lamp.centre);
  const [ax, ay] = drawn(plot, scale, lamp.aim);
  // Its half-extent in this view: both half-extents, projected; the longer one is what shows.
  const span = (v: Vector): [number, number] => [
    plot.across[1] * v[plot.across[0]] * scale,
    plot.down[1] * v[plot.down[0]] * scale,
  ];
  const [across, up] = [span(lamp.across), span(lamp.up)];
  const [sx, sy] = Math.hypot(...across) > Math.hypot(...up) ? across : up;
  const ends = [
    [cx - sx, cy - sy],
    [cx + sx, cy + sy],
  ] as const;
  const far = Math.hypot(cx - ax, cy - ay) || 1;
  const badge = [cx + ((cx - ax) / far) * 13, cy + ((cy - ay) / far) * 13] as const;
  const round = lamp.kind === "bulb" || lamp.kind === "sun";
  return (
    <g
      data-picked={picked || undefined}
      className={`group/lamp cursor-grab ${lamp.on ? "" : "opacity-40"}`}
      role="button"
      tabIndex={0}
      aria-pressed={picked}
      aria-label={`Lamp ${number}, ${name}, in ${plot.name}; arrow keys move it`}
      {...hold}
      onKeyDown={onKeyDown}
    >
      {picked ? (
        <path className="fill-verdigris-wash stroke-verdigris" d={`M${ends[0]}L${ax} ${ay}L${ends[1]}Z`} />
      ) : (
        <path className="fill-none stroke-ink-3 [stroke-dasharray:3_3]" d={`M${cx} ${cy}L${ax} ${ay}`} />
      )}
      {round ? (
        <circle
          className="fill-sheet stroke-ink stroke-[1.5] group-data-picked/lamp:stroke-verdigris"
          cx={cx}
          cy={cy}
          r={Math.max(Math.hypot(sx, sy), 3)}
        />
      ) : (
        <path className="fill-none stroke-ink stroke-4 group-data-picked/lamp:stroke-verdigris" d={`M${ends[0]}L${ends[1]}`} />
      )}
      <circle
        data-part="badge"
        className="fill-sheet stroke-ink stroke-[1.5] group-focus-visible/lamp:stroke-verdigris group-focus-visible/lamp:stroke-4 group-data-picked/lamp:fill-verdigris group-data-picked/lamp:stroke-verdigris"
        cx={badge[0]}
        cy={badge[1]}
        r={8.5}
      />
      <text
        className="pointer-events-none text-caption font-[650] group-data-picked/lamp:fill-white"
        x={badge[0]}
        y={badge[1] + 4}
        textAnchor="middle"
      >
        {number}
      </text>
    </g>
  );
}
