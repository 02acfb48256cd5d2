import type { LetteringBlock, Workshop } from "../../api/client";
import { Fold } from "../../components/Fold";
import { Tick } from "../../components/Tick";
import { useLive } from "../../live/store";

interface Props {
  block: LetteringBlock;
  path: string;
  features: Workshop["typefaces"][number]["features"];
}

/** What the typeface can do besides its plain letters, by name. */
export function Features({ block, path, features }: Props) {
  const edit = useLive.getState().edit;
  if (!features.length) return null;
  const own = block.features ?? {};
  const changed = features.filter(({ tag, default: usual }) => (own[tag] ?? usual) !== usual);
  return (
    <Fold
      title="Features"
      summary={changed.length ? changed.map(({ name }) => name.toLowerCase()).join(", ") : "as the typeface has them"}
    >
      {features.map(({ tag, name, default: usual }) => (
        <Tick
          key={tag}
          label={name}
          on={own[tag] ?? usual}
          onChange={(on) => edit([{ op: "add", path: `${path}/features/${tag}`, value: on }])}
        />
      ))}
    </Fold>
  );
}
