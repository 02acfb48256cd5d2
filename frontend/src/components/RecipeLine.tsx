import { useLive } from "../live/store";
import { STATIONS, type Station } from "../stations/stations";

/** The whole recipe in one row: a specification table whose cells open their station. */
export function RecipeLine({ open, onOpen }: { open: Station; onOpen: (station: Station) => void }) {
  const recipe = useLive((live) => live.piece?.recipe);
  const index = STATIONS.findIndex((station) => station.id === open);
  return (
    <nav
      className="recipe-line"
      aria-label="Recipe"
      style={{ "--open": index, "--count": STATIONS.length } as React.CSSProperties}
    >
      {STATIONS.map((station, number) => (
        <button
          key={station.id}
          type="button"
          className="recipe-cell"
          aria-current={station.id === open ? "step" : undefined}
          aria-keyshortcuts={String(number + 1)}
          onClick={() => onOpen(station.id)}
        >
          <span className="recipe-name">
            {station.name}
            <kbd>{number + 1}</kbd>
          </span>
          {(recipe?.[station.id] ?? []).map((line, row) => (
            <span className="recipe-text" key={row}>
              {line.map((run, place) => (run.strong ? <b key={place}>{run.text}</b> : <span key={place}>{run.text}</span>))}
            </span>
          ))}
        </button>
      ))}
      <span className="leader" aria-hidden="true" />
    </nav>
  );
}
