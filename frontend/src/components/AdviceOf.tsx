import { liveNow, useBlock, useLive } from "../live/store";
import { Notice } from "../ui/Notes";
import { TextAction } from "../ui/TextAction";

/** Quiet advice where it applies, with the one act that helps. */
export function Advice({ station }: { station: string }) {
  const entries = useLive((live) => live.piece?.drawings.advice);
  const edit = liveNow().edit;
  const { index } = useBlock();
  return entries
    ?.filter((entry) => entry.station === station && (entry.block ?? index) === index)
    .map(({ text, act }) => (
      <Notice key={text}>
        {text} {act && <TextAction onClick={() => edit(act.edits)}>{act.label}</TextAction>}
      </Notice>
    ));
}
