import type { LetteringBlock, Workshop } from "../../api/client";
import { TextField } from "../../fields/TextField";
import { liveNow } from "../../live/store";
import { FoldingSection } from "../../ui/Section";
import { Tick } from "../../ui/Tick";

interface Props {
  block: LetteringBlock;
  path: string;
  features: Workshop["typefaces"][number]["features"];
}

/** What the typeface can do besides its plain letters, by name, and the language whose forms it takes. */
export function Features({ block, path, features }: Props) {
  const edit = liveNow().edit;
  const own = block.features ?? {};
  const changed = features.filter(({ tag, default: usual }) => (own[tag] ?? usual) !== usual);
  return (
    <FoldingSection
      title="Features"
      help="OpenType features of the typeface. Language is a BCP 47 tag such as nl or sr; script is an ISO 15924 code such as Latn or Arab, if it should not be guessed from the words."
      summary={changed.length ? changed.map(({ name }) => name.toLowerCase()).join(", ") : "as the typeface has them"}
    >
      <TextField label="Language" path={`${path}/language`} value={block.language ?? ""} />
      <TextField label="Script" path={`${path}/script`} value={block.script ?? ""} />
      {features.map(({ tag, name, default: usual }) => (
        <Tick
          key={tag}
          label={name}
          on={own[tag] ?? usual}
          onChange={(on) => edit([{ op: "add", path: `${path}/features/${tag}`, value: on }])}
        />
      ))}
    </FoldingSection>
  );
}
