import { useLive } from "../live/store";
import { STATIONS, type Station } from "../stations/stations";
import { Kbd } from "../ui/Kbd";
import { Tab, TabList } from "../ui/Tabs";

/** The whole recipe in one row: a specification table whose cells are the tabs of the stations. */
export function RecipeLine({ open }: { open: Station }) {
  const recipe = useLive((live) => live.piece?.recipe);
  const index = STATIONS.findIndex((station) => station.id === open);
  return (
    <TabList
      data-part="recipe"
      className="relative col-span-full grid grid-cols-[repeat(var(--count),minmax(0,1fr))] border-y border-rule max-[820px]:grid-cols-4"
      aria-label="Recipe"
      style={{ "--open": index, "--count": STATIONS.length } as React.CSSProperties}
    >
      {STATIONS.map((station, number) => (
        <Tab
          key={station.id}
          value={station.id}
          data-part="recipe-cell"
          className="group/cell flex min-w-0 flex-col items-stretch border-t-3 border-l border-t-transparent border-l-rule pt-[7px] pr-2.5 pb-[5px] pl-4 text-left text-small text-ink-2 [font-stretch:88%] first:border-l-0 hover:bg-paper-recess focus-visible:-outline-offset-3 aria-selected:border-t-verdigris aria-selected:bg-sheet"
          aria-keyshortcuts={String(number + 1)}
          // A click leaves no focus ring behind; the Tab key still continues from here.
          onClick={(event) => event.detail > 0 && event.currentTarget.blur()}
        >
          <span className="flex justify-between text-value font-semibold text-ink [font-stretch:100%] group-aria-selected/cell:text-verdigris">
            {station.name}
            {/* In a narrow window there is room for the name alone. */}
            <span className="max-[1100px]:hidden">
              <Kbd>{String(number + 1)}</Kbd>
            </span>
          </span>
          {(recipe?.[station.id] ?? []).map((line, row) => (
            <span className="truncate" key={row}>
              {line.map((run, place) =>
                run.strong ? (
                  <b key={place} className="font-[650] text-ink">
                    {run.text}
                  </b>
                ) : (
                  <span key={place}>{run.text}</span>
                ),
              )}
            </span>
          ))}
        </Tab>
      ))}
      <span
        className="pointer-events-none absolute right-0 -bottom-px left-[calc(var(--open)/var(--count)*100%)] h-[3px] bg-verdigris max-[820px]:hidden"
        aria-hidden="true"
      />
    </TabList>
  );
}
