import { useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Surround } from "../../api/client";
import { SurroundPicture } from "../../components/Drawn";
import { FileButton } from "../../components/FileButton";
import { FieldsOf } from "../../fields/FieldsOf";
import { liveNow } from "../../live/store";
import { Entry } from "../../ui/Entry";
import { FoldingSection, Section } from "../../ui/Section";
import { TextAction } from "../../ui/TextAction";
import { Tile, Tiles } from "../../ui/Tiles";

const KINDS = ["studio", "horizon", "dusk", "plain", "panorama"] as const;
const PATH = "/light/surround";

const MODELS = { studio: "Studio", horizon: "Horizon", dusk: "Dusk", plain: "Plain", panorama: "Panorama" } as const;

/** The light from everywhere: its kind by picture, its numbers below. */
export function Surroundings({ surround }: { surround: Surround }) {
  const edit = liveNow().edit;
  return (
    <Section
      title="Surroundings"
      help="What surrounds the letters, and what polished metal reflects. It is the dark line of a horizon that makes chromium look like chromium."
    >
      <Tiles label="Kind of surroundings" of={5}>
        {KINDS.map((kind) => (
          <Tile
            key={kind}
            chosen={kind === surround.kind}
            onChoose={() =>
              kind !== surround.kind &&
              edit([{ op: "replace", path: PATH, value: { kind, strength: surround.strength, turn: surround.turn } }])
            }
            picture={<SurroundPicture surround={{ kind }} />}
          >
            {kind}
          </Tile>
        ))}
      </Tiles>
      {surround.kind === "panorama" && <Panoramas picture={surround.picture} />}
      <FieldsOf model={MODELS[surround.kind]} path={PATH} values={surround} />
      {surround.kind === "studio" && <Cards cards={surround.cards} />}
    </Section>
  );
}

function Cards({ cards }: { cards: Extract<Surround, { kind: "studio" }>["cards"] }) {
  const edit = liveNow().edit;
  return (
    <FoldingSection title="Cards" help="Bright cards around the studio, seen in polished surfaces." summary={`${cards.length}`}>
      {cards.map((card, index) => (
        <Entry key={index} title={`Card ${index + 1}`} onRemove={() => edit([{ op: "remove", path: `${PATH}/cards/${index}` }])}>
          <FieldsOf model="Card" path={`${PATH}/cards/${index}`} values={card} />
        </Entry>
      ))}
      <TextAction onClick={() => edit([{ op: "add", path: `${PATH}/cards/-`, value: {} }])}>Add a card</TextAction>
    </FoldingSection>
  );
}

/** The panoramas there are, and a way to bring one's own. */
function Panoramas({ picture }: { picture: string }) {
  const edit = liveNow().edit;
  const queries = useQueryClient();
  const names = useQuery({ queryKey: ["panoramas"], queryFn: api.panoramas }).data?.names ?? [picture];

  async function keep(file: File) {
    const name =
      file.name
        .replace(/\.[^.]*$/, "")
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, "-")
        .replace(/^-+|-+$/g, "")
        .slice(0, 80) || "panorama";
    queries.setQueryData(["panoramas"], await api.keepPanorama(name, file));
    edit([{ op: "replace", path: `${PATH}/picture`, value: name }]);
  }

  return (
    <>
      <Tiles label="Panorama" of={5}>
        {[...new Set([...names, picture])].map((name) => (
          <Tile
            key={name}
            chosen={name === picture}
            onChoose={() => edit([{ op: "replace", path: `${PATH}/picture`, value: name }])}
            picture={<SurroundPicture surround={{ kind: "panorama", picture: name, strength: 0 }} />}
          >
            {name}
          </Tile>
        ))}
      </Tiles>
      <FileButton name="Panorama" accept=".hdr,.exr" take={keep}>
        Add a panorama (.hdr, .exr)
      </FileButton>
    </>
  );
}
