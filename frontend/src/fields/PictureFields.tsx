import { useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type PictureLayer } from "../api/client";
import { FileButton } from "../components/FileButton";
import { liveNow } from "../live/store";
import { Remark } from "../ui/Notes";
import { Tile, Tiles } from "../ui/Tiles";
import { FieldsOf } from "./FieldsOf";

interface Props {
  picture: PictureLayer;
  path: string;
  /** Fields that have no meaning here. */
  without: readonly string[];
}

/** A picture, chosen from those that are kept or brought, and how it is laid. */
export function PictureFields({ picture, path, without }: Props) {
  const edit = liveNow().edit;
  const queries = useQueryClient();
  const kept = useQuery({ queryKey: ["pictures"], queryFn: api.pictures }).data?.pictures;
  const choose = (id: string) => edit([{ op: "replace", path: `${path}/picture`, value: id }]);

  async function keep(file: File) {
    const { id } = await api.keepPicture(file);
    await queries.invalidateQueries({ queryKey: ["pictures"] });
    choose(id);
  }

  return (
    <>
      {kept && !kept.some(({ id }) => id === picture.picture) && (
        <Remark>The picture is missing: a checker stands in its place. Add it again, or take another.</Remark>
      )}
      <Tiles label="Pictures" of={4}>
        {kept?.map(({ id, name }) => (
          <Tile
            key={id}
            chosen={id === picture.picture}
            onChoose={() => choose(id)}
            picture={<img className="aspect-[134/92] w-full object-cover" src={api.smallPicture(id)} alt="" />}
          >
            <span className="w-full truncate text-left">{name}</span>
          </Tile>
        ))}
      </Tiles>
      <FileButton name="Picture" accept=".png,.jpg,.jpeg,.webp,.tif,.tiff,.exr" take={keep}>
        Add a picture (.png, .jpg, .webp, .tiff, .exr)
      </FileButton>
      <FieldsOf model="Picture" path={path} values={picture} without={without} />
    </>
  );
}
