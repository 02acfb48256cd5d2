import { Keyboard, Redo2, Search, Undo2 } from "lucide-react";
import { printed } from "../commands/command";
import { shown } from "../fields/NumberField";
import { deskNow } from "../live/desk";
import { liveNow, useLive } from "../live/store";
import { IconButton } from "../ui/IconButton";
import { Choice } from "./Choice";
import { HistoryMenu } from "./HistoryMenu";
import { PieceMenu } from "./PieceMenu";
import { ZoomMenu } from "./ZoomMenu";

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
      {piece && <ZoomMenu />}
      <Progress />
      {!connected && (
        <span className="offline" role="alert">
          Reconnecting … your edits are kept
        </span>
      )}
      <span className="spring" />
      <IconButton
        icon={Undo2}
        label={piece?.undo ? `Undo: ${piece.undo}` : "Undo"}
        keys={printed("Mod+Z")}
        disabled={!piece?.undo}
        onClick={() => step("undo")}
      />
      <IconButton
        icon={Redo2}
        label={piece?.redo ? `Redo: ${piece.redo}` : "Redo"}
        keys={printed("Mod+Shift+Z")}
        disabled={!piece?.redo}
        onClick={() => step("redo")}
      />
      <HistoryMenu />
      <IconButton icon={Search} label="All commands" keys="F2" onClick={() => deskNow().openSheet("commands")} />
      <IconButton icon={Keyboard} label="All keys" keys="?" onClick={() => deskNow().openSheet("keys")} />
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
