import { useState } from "react";
import { api, type Evening, told } from "../../api/client";
import { shown } from "../../fields/NumberField";
import { liveNow, useLive } from "../../live/store";

/** Kerning that would give all pairs as much white, pair by pair, to take or to leave. */
export function EveningProposal({ block }: { block: string }) {
  const [offered, setOffered] = useState<Evening | null>(null);
  const piece = useLive((live) => live.piece?.id ?? "");

  async function ask() {
    try {
      setOffered(await api.evening(piece, block));
    } catch (fault) {
      useLive.setState({ refusal: told(fault) });
    }
  }

  function take() {
    if (offered) liveNow().edit(offered.edits);
    setOffered(null);
  }

  if (!offered)
    return (
      <button type="button" className="text-action" onClick={() => void ask()}>
        Even the spaces
      </button>
    );
  return (
    <div className="evening" role="status">
      {offered.kerns.length === 0 && <p>The spacing is already even.</p>}
      <ul>
        {offered.kerns.map((kern) => (
          <li key={kern.letter}>
            <b>{kern.pair}</b> {shown(kern.now)} → {shown(kern.proposed)}
          </li>
        ))}
      </ul>
      <div className="row-actions">
        {offered.kerns.length > 0 && (
          <button type="button" className="text-action" onClick={take}>
            Take these
          </button>
        )}
        <button type="button" className="text-action" onClick={() => setOffered(null)}>
          Leave it
        </button>
      </div>
    </div>
  );
}
