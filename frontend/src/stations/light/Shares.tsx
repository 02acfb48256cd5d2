import type { PieceState } from "../../api/client";
import { CommandAction } from "../../commands/CommandAction";
import { SmallDraft } from "../../components/SmallDraft";
import { Actions } from "../../ui/Rows";
import { FoldingSection } from "../../ui/Section";
import { Tile, Tiles } from "../../ui/Tiles";

interface Props {
  light: PieceState["document"]["light"];
  picked: number;
  onPick: (index: number) => void;
}

/** What each light alone gives to the picture. */
export function Shares({ light, picked, onPick }: Props) {
  const { lamps } = light;
  const lamp = lamps[picked];
  const alone = lamps.every((entry) => entry.on === (entry === lamp));
  return (
    <FoldingSection
      title="Share of each light"
      summary={lamps.length === 1 ? "1 lamp, surroundings" : `${lamps.length} lamps, surroundings`}
      help="The piece lit by one light alone. Light adds up: all of these together make the picture."
    >
      <Tiles label="Share of each light" of={3}>
        {lamps.map((lamp, index) => (
          <Tile
            key={lamp.id}
            chosen={index === picked}
            onChoose={() => onPick(index)}
            picture={<SmallDraft path={`lamps/${encodeURIComponent(lamp.id)}/share`} dim={!lamp.on} />}
          >
            {lamp.on ? lamp.name : `${lamp.name}, off`}
          </Tile>
        ))}
        <div className="flex min-w-0 flex-col items-center gap-0.5 p-1 text-caption leading-[1.15]">
          <SmallDraft path="surroundings/share" />
          surroundings
        </div>
      </Tiles>
      {lamp && (
        <Actions>
          <CommandAction id="switch-lamp">{lamp.on ? `Switch off ${lamp.name}` : `Switch on ${lamp.name}`}</CommandAction>
          {lamps.length > 1 && <CommandAction id="lamp-alone">{alone ? "All lamps on" : `Only ${lamp.name}`}</CommandAction>}
        </Actions>
      )}
    </FoldingSection>
  );
}
