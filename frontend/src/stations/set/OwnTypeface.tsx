import { useQueryClient } from "@tanstack/react-query";
import { type ChangeEvent, useRef } from "react";
import { api, ProblemError, type Workshop } from "../../api/client";
import { useLive } from "../../live/store";

/** Brings a font file of one's own, and sets the words in it. */
export function OwnTypeface({ path }: { path: string }) {
  const queries = useQueryClient();
  const input = useRef<HTMLInputElement>(null);

  async function keep(event: ChangeEvent<HTMLInputElement>) {
    const file = event.target.files?.[0];
    event.target.value = "";
    if (!file) return;
    try {
      const { ids, typefaces } = await api.keepTypeface(file);
      queries.setQueryData<Workshop>(["workshop"], (before) => before && { ...before, typefaces });
      useLive.getState().edit([{ op: "replace", path: `${path}/typeface`, value: ids[0] }]);
    } catch (fault) {
      useLive.setState({ refusal: fault instanceof ProblemError ? fault.problem.detail : "the font could not be sent" });
    }
  }

  return (
    <>
      <input
        ref={input}
        type="file"
        accept=".ttf,.otf,.woff,.woff2,.ttc,.otc"
        hidden
        onChange={(event) => void keep(event)}
        aria-label="Font file"
      />
      <button type="button" className="text-action" onClick={() => input.current?.click()}>
        Add a typeface
      </button>
    </>
  );
}
