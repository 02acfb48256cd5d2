import { useDeferredValue } from "react";
import { useLive } from "../live/store";

interface Props {
  path: string;
  dim?: boolean;
  /** The utilities that give it its size. */
  size?: string;
}

/** A small draft of the open piece in another light, or with an effect, by its path under the piece. */
export function SmallDraft({ path, dim = false, size = "aspect-video w-full" }: Props) {
  const id = useLive((live) => live.piece?.id ?? "");
  const revision = useDeferredValue(useLive((live) => live.piece?.revision ?? 0));
  return (
    <img
      src={`/api/pieces/${id}/${path}?at=${revision}`}
      alt=""
      className={`${size} bg-paper-recess object-cover ${dim ? "opacity-45" : ""}`}
      loading="lazy"
    />
  );
}
