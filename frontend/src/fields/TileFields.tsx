import type { TileLayer } from "../api/client";
import { blockName } from "../components/blockName";
import { liveNow, useDocument } from "../live/store";
import { Remark } from "../ui/Notes";
import { Select } from "../ui/Select";
import { FieldsOf } from "./FieldsOf";

interface Props {
  tile: TileLayer;
  path: string;
  /** Fields that have no meaning here. */
  without: readonly string[];
}

/** A block of the piece as a tile: which one, and how it is laid. */
export function TileFields({ tile, path, without }: Props) {
  const blocks = useDocument().blocks;
  // Names may be alike; numbers are not.
  const options = blocks.map((block, index) => `${index + 1}: ${blockName(block)}`);
  const at = blocks.findIndex((block) => block.id === tile.block);
  return (
    <>
      <Select
        label="Tile"
        value={options[at] ?? ""}
        options={options}
        onChoose={(option) =>
          liveNow().edit([{ op: "replace", path: `${path}/block`, value: blocks[options.indexOf(option)]?.id ?? "" }])
        }
      />
      {at < 0 && <Remark>Choose the block whose ink is the tile; it may be hidden itself.</Remark>}
      <FieldsOf model="Tile" path={path} values={tile} without={without} />
    </>
  );
}
