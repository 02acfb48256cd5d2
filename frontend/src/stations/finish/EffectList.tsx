import { type KeyboardEvent, useRef, useState } from "react";
import type { Effect } from "../../api/client";
import { SmallDraft } from "../../components/SmallDraft";
import { useTargets } from "../../fields/TargetField";
import { liveNow } from "../../live/store";
import { Tick } from "../../ui/Tick";
import { useHold } from "../../ui/useHold";
import { titled } from "./titled";

interface Props {
  effects: readonly Effect[];
  /** The place of the picked one. */
  at: number;
  onPick: (at: number) => void;
  /** Puts one of them at another place. */
  onMove: (from: number, to: number) => void;
}

/** The stack of effects, the first one first: switched, picked, and moved by drag or by Alt and the arrow keys. */
export function EffectList({ effects, at, onPick, onMove }: Props) {
  const targets = useTargets();
  const nameOf = (target: string) => targets.find((entry) => entry.target === target)?.name ?? "what is gone";
  // Where the dragged effect would go.
  const [dragged, setDragged] = useState<{ from: number; to: number } | null>(null);
  const wasDragged = useRef(false);
  const last = effects.length - 1;

  const hold = useHold<number, { from: number; high: number }>({
    begin(event, from) {
      wasDragged.current = false;
      return { from, high: event.currentTarget.getBoundingClientRect().height };
    },
    move({ from, high }, _, [, down]) {
      wasDragged.current = true;
      setDragged({ from, to: Math.min(Math.max(from + Math.round(down / high), 0), last) });
    },
    end() {
      if (dragged && dragged.from !== dragged.to) onMove(dragged.from, dragged.to);
      setDragged(null);
    },
  });

  function onKeyDown(event: KeyboardEvent, from: number) {
    const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (!event.altKey || !by || from + by < 0 || from + by > last) return;
    event.preventDefault();
    onMove(from, from + by);
  }

  return (
    <ol aria-label="Effects in their order">
      {effects.map((entry, index) => (
        <li
          key={index}
          data-to={(dragged?.to === index && dragged.from !== index) || undefined}
          className="flex items-center gap-1.5 data-to:shadow-[inset_0_0_0_2px_var(--color-verdigris)]"
        >
          <Tick
            label={titled(entry.kind)}
            hideLabel
            on={entry.on}
            onChange={(on) => liveNow().edit([{ op: "replace", path: `/finish/${index}/on`, value: on }])}
          />
          <button
            type="button"
            aria-pressed={index === at}
            title="Drag it, or Alt and the up and down keys, to another place"
            className="flex min-h-7 grow touch-none items-center gap-2 rounded-sheet p-0.5 pr-1.5 hover:bg-paper-recess aria-pressed:bg-sheet aria-pressed:font-[650]"
            {...hold(index)}
            onClick={() => wasDragged.current || onPick(index)}
            onKeyDown={(event) => onKeyDown(event, index)}
          >
            <SmallDraft path={`finish/${index}`} dim={!entry.on} size="pointer-events-none h-9 w-16 shrink-0" />
            <span className="grow text-left">{titled(entry.kind)}</span>
            <span className="text-small text-ink-3">
              {entry.strength} %{entry.target === "picture" ? "" : ` of ${nameOf(entry.target)}`}
            </span>
          </button>
        </li>
      ))}
    </ol>
  );
}
