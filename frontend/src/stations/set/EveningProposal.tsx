import { useState } from "react";
import { api, type Evening, messageOf } from "../../api/client";
import { shown } from "../../fields/NumberField";
import { liveNow, useLive } from "../../live/store";
import { Actions } from "../../ui/Rows";
import { TextAction } from "../../ui/TextAction";
import { useWaiting } from "../../ui/useWaiting";

/** Kerning that would give all pairs as much white, pair by pair, to take or to leave. */
export function EveningProposal({ block }: { block: string }) {
  const [offered, setOffered] = useState<Evening | null>(null);
  const [waiting, run] = useWaiting();
  const piece = useLive((live) => live.piece?.id ?? "");

  async function ask() {
    try {
      setOffered(await api.evening(piece, block));
    } catch (fault) {
      useLive.setState({ refusal: messageOf(fault) });
    }
  }

  function take() {
    if (offered) liveNow().edit(offered.edits);
    setOffered(null);
  }

  if (!offered)
    return (
      <TextAction waiting={waiting} onClick={() => void run(ask)}>
        Even the spaces
      </TextAction>
    );
  return (
    <div data-part="evening" className="w-full" role="status">
      {offered.kerns.length === 0 && <p>The spacing is already even.</p>}
      <ul className="grid grid-cols-3 gap-x-2 gap-y-0.5">
        {offered.kerns.map((kern) => (
          <li key={kern.letter}>
            <b>{kern.pair}</b> {shown(kern.now)} → {shown(kern.proposed)}
          </li>
        ))}
      </ul>
      <Actions>
        {offered.kerns.length > 0 && <TextAction onClick={take}>Take these</TextAction>}
        <TextAction onClick={() => setOffered(null)}>Leave it</TextAction>
      </Actions>
    </div>
  );
}
