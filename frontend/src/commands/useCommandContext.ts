import { useHasClip } from "../components/acts";
import { useDesk } from "../live/desk";
import { useLive } from "../live/store";
import { type Context, contextOf } from "./command";

/** What commands act on, for what shows them; null before a piece is there. */
export function useCommandContext(): Context | null {
  const piece = useLive((live) => live.piece);
  const desk = useDesk();
  useHasClip();
  return piece && contextOf(piece, desk);
}
