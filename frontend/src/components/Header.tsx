import { deskNow } from "../live/desk";
import { liveNow, useLive } from "../live/store";
import { Choice } from "./Choice";
import { HistoryMenu } from "./HistoryMenu";
import { shown } from "./NumberField";
import { PieceMenu } from "./PieceMenu";

const SURROUNDS = ["light", "middle", "dark"] as const;
export type Surround = (typeof SURROUNDS)[number];

interface Props {
  surround: Surround;
  onSurround: (surround: Surround) => void;
  onOpenPiece: (id: string) => void;
  onExport: () => void;
}

/** The name, how far the picture is, the way back and forth, the grey around the stage. */
export function Header({ surround, onSurround, onOpenPiece, onExport }: Props) {
  const piece = useLive((live) => live.piece);
  const connected = useLive((live) => live.connected);
  const step = liveNow().step;
  return (
    <header className="top">
      <h1>Halvex</h1>
      <PieceMenu onOpen={onOpenPiece} />
      {piece && (
        <span className="measure">
          {piece.document.canvas.width} × {piece.document.canvas.height} px
        </span>
      )}
      <Progress />
      {!connected && (
        <span className="offline" role="alert">
          Reconnecting; nothing is lost
        </span>
      )}
      <span className="spring" />
      <button
        type="button"
        className="step"
        disabled={!piece?.undo}
        title={piece?.undo ? `Undo ${piece.undo} (Ctrl+Z)` : undefined}
        aria-label={piece?.undo ? `Undo: ${piece.undo}` : "Undo"}
        onClick={() => step("undo")}
      >
        <svg viewBox="0 0 18 12" aria-hidden="true">
          <path d="M6 1 1.5 5.5 6 10M2 5.5h9a5 5 0 0 1 5 5" fill="none" stroke="currentColor" strokeWidth="1.6" />
        </svg>
      </button>
      <button
        type="button"
        className="step"
        disabled={!piece?.redo}
        title={piece?.redo ? `Redo ${piece.redo} (Ctrl+Shift+Z)` : undefined}
        aria-label={piece?.redo ? `Redo: ${piece.redo}` : "Redo"}
        onClick={() => step("redo")}
      >
        <svg viewBox="0 0 18 12" aria-hidden="true">
          <path d="M12 1l4.5 4.5L12 10M16 5.5H7a5 5 0 0 0-5 5" fill="none" stroke="currentColor" strokeWidth="1.6" />
        </svg>
      </button>
      <HistoryMenu />
      <button
        type="button"
        className="step worded"
        title="All that can be done (F2)"
        onClick={() => deskNow().openSheet("commands")}
      >
        Find
      </button>
      <button type="button" className="step" aria-label="Keys" title="All keys (?)" onClick={() => deskNow().openSheet("keys")}>
        ?
      </button>
      <Choice
        label="Surround"
        value={surround}
        options={SURROUNDS.map((value) => ({
          value,
          show: <span className={`grey surround-${value}`} title={value} role="img" aria-label={value} />,
        }))}
        onChoose={onSurround}
      />
      <button type="button" className="deliver" onClick={onExport}>
        Export
      </button>
    </header>
  );
}

function Progress() {
  const frame = useLive((live) => live.frame);
  const piece = useLive((live) => live.piece);
  const current = frame && piece && frame.revision === piece.revision ? frame : null;
  if (!current || current.stage === "draft") return <span className="progress">draft</span>;
  const clean = current.stage === "clean";
  const noise = current.noise === null ? `${shown(current.samples)} samples` : `noise ${shown(current.noise * 100)} %`;
  return (
    <span className="progress" role="status" title={`${shown(current.samples)} samples a pixel`}>
      {clean ? `clean, ${noise}` : noise} <small>{shown(current.ms / 1000)} s</small>
      {clean && <span className="progress-line" />}
    </span>
  );
}
