import { useQueryClient } from "@tanstack/react-query";
import { api, type Workshop } from "../../api/client";
import { FileButton } from "../../components/FileButton";
import { liveNow } from "../../live/store";

/** Brings a font file of one's own, and sets the words in it. */
export function OwnTypeface({ path }: { path: string }) {
  const queries = useQueryClient();

  async function keep(file: File) {
    const { ids, typefaces } = await api.keepTypeface(file);
    queries.setQueryData<Workshop>(["workshop"], (before) => before && { ...before, typefaces });
    liveNow().edit([{ op: "replace", path: `${path}/typeface`, value: ids[0] }]);
  }

  return (
    <FileButton name="Font" accept=".ttf,.otf,.woff,.woff2,.ttc,.otc" take={keep}>
      Add a typeface
    </FileButton>
  );
}
