import { SmallDraft } from "../../components/SmallDraft";
import { liveNow, useDocument } from "../../live/store";
import { useWorkshop } from "../../live/workshop";
import { Remark } from "../../ui/Notes";
import { Popover } from "../../ui/Popover";
import { Section } from "../../ui/Section";
import { Tick } from "../../ui/Tick";
import { Tile, Tiles } from "../../ui/Tiles";

/** The setup that the light came from; behind it all others, each as a small draft of this very piece. */
export function Setups() {
  const { light } = useDocument();
  const setups = useWorkshop().setups;
  const { edit } = liveNow();
  const { setup } = light;
  const says = setups.find((entry) => entry.name === setup?.name)?.says;
  const choose = (name: string, follows: boolean) => edit([{ op: "setup", path: "/light", value: { name, follows } }]);
  return (
    <Section
      title="Setup"
      help="Arrangements of lamps and cards that fit themselves to the lettering: where its faces and bevels look, how wide it is and what it is made of."
      actions={
        <Popover
          label="Lighting setups"
          side="left"
          align="start"
          sideOffset={12}
          className="w-[min(640px,100vw-48px)]"
          upTo="max-h-[min(86vh,720px)]"
          trigger={
            <button
              type="button"
              className="rounded-sheet border border-rule-firm bg-sheet px-2.5 py-1 font-semibold first-letter:uppercase hover:bg-paper-recess pointer-coarse:min-h-11"
            >
              {setup?.name ?? "Choose a setup"}
            </button>
          }
        >
          <Tiles label="Lighting setups" of={3}>
            {setups.map((entry) => (
              <Tile
                key={entry.name}
                chosen={entry.name === setup?.name}
                onChoose={() => choose(entry.name, setup?.follows ?? true)}
                picture={<SmallDraft path={`setups/${encodeURIComponent(entry.name)}`} />}
              >
                <b className="w-full text-left text-small first-letter:uppercase">{entry.name}</b>
                <span className="w-full text-left text-ink-3">{entry.says}</span>
              </Tile>
            ))}
          </Tiles>
        </Popover>
      }
    >
      {setup ? (
        <>
          <Remark>{says}</Remark>
          <Tick label="follows the piece" on={setup.follows} onChange={(on) => choose(setup.name, on)} />
        </>
      ) : (
        <Remark>Lamps and surroundings are set by hand.</Remark>
      )}
    </Section>
  );
}
