import { useDeferredValue } from "react";
import { useLive } from "../../live/store";

/** A small draft of the open piece in another light, by its path under the piece. */
export function SmallDraft({ path, dim = false }: { path: string; dim?: boolean }) {
  const id = useLive((live) => live.piece?.id ?? "");
  const revision = useDeferredValue(useLive((live) => live.piece?.revision ?? 0));
  return (
    <img
      src={`/api/pieces/${id}/${path}?at=${revision}`}
      alt=""
      className={`aspect-video w-full bg-paper-recess object-cover ${dim ? "opacity-45" : ""}`}
      loading="lazy"
    />
  );
}
