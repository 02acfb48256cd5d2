import { Keyboard, Redo2, Search, Undo2 } from "lucide-react";
import { type ComponentProps, useEffect, useState } from "react";
import { printed } from "../commands/command";
import { shown } from "../fields/NumberField";
import { deskNow } from "../live/desk";
import { liveNow, useLive } from "../live/store";
import { Button } from "../ui/Button";
import { Choice } from "../ui/Choice";
import { IconButton } from "../ui/IconButton";
import { Toolbar, ToolbarItem } from "../ui/Toolbar";
import { HistoryMenu } from "./HistoryMenu";
import { PieceMenu } from "./PieceMenu";
import { ZoomMenu } from "./ZoomMenu";

const SURROUNDS = ["light", "middle", "dark"] as const;
/** The greys around the stage. */
export const SURROUND = { light: "bg-surround-light", middle: "bg-surround-middle", dark: "bg-surround-dark" } as const;
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
    <header
      data-part="top"
      className="col-span-full flex items-center gap-4 px-4 whitespace-nowrap max-[820px]:flex-wrap max-[820px]:gap-x-3 max-[820px]:gap-y-1.5 max-[820px]:px-3 max-[820px]:py-2"
    >
      <h1 className="border-r border-rule pr-4 text-title font-bold [font-stretch:116%]">Halvex</h1>
      <PieceMenu onOpen={onOpenPiece} />
      {piece && (
        <span data-part="measure" className="text-ink-2">
          {piece.document.canvas.width} × {piece.document.canvas.height} px
        </span>
      )}
      {piece && <ZoomMenu />}
      <Progress />
      {!connected && (
        <span data-part="offline" className="text-madder" role="alert">
          Reconnecting … your edits are kept
        </span>
      )}
      <span className="flex-1" />
      <Toolbar label="Piece">
        <ToolbarItem disabled={!piece?.undo}>
          <IconButton
            icon={Undo2}
            label={piece?.undo ? `Undo: ${piece.undo}` : "Undo"}
            keys={printed("Mod+Z")}
            disabled={!piece?.undo}
            onClick={() => step("undo")}
          />
        </ToolbarItem>
        <ToolbarItem disabled={!piece?.redo}>
          <IconButton
            icon={Redo2}
            label={piece?.redo ? `Redo: ${piece.redo}` : "Redo"}
            keys={printed("Mod+Shift+Z")}
            disabled={!piece?.redo}
            onClick={() => step("redo")}
          />
        </ToolbarItem>
        <HistoryMenu />
        <ToolbarItem>
          <IconButton icon={Search} label="All commands" keys="F2" onClick={() => deskNow().openSheet("commands")} />
        </ToolbarItem>
        <ToolbarItem>
          <IconButton icon={Keyboard} label="All keys" keys="?" onClick={() => deskNow().openSheet("keys")} />
        </ToolbarItem>
      </Toolbar>
      <Choice
        label="Surround"
        value={surround}
        options={SURROUNDS.map((value) => ({
          value,
          show: <span className={`block h-5 w-[26px] ${SURROUND[value]}`} title={value} role="img" aria-label={value} />,
        }))}
        onChoose={onSurround}
        pictures
        hideLabel
      />
      <Button onClick={onExport}>Export</Button>
    </header>
  );
}

/** A line of words on the picture, over a bar as long as the `share` that is done. */
function ProgressLine({ share = 0, children, ...more }: ComponentProps<"span"> & { share?: number }) {
  return (
    <span data-part="progress" className="relative min-w-24 overflow-hidden pb-0.5 text-ellipsis text-ink-2" {...more}>
      {children}
      <span className="absolute bottom-0 left-0 h-0.5 bg-verdigris" style={{ width: `${100 * share}%` }} />
    </span>
  );
}

/** How far the picture is. */
function Progress() {
  const frame = useLive((live) => live.frame);
  const piece = useLive((live) => live.piece);
  const prepared = useLive((live) => live.prepared);
  const current = frame && piece && frame.revision === piece.revision ? frame : null;
  if (prepared !== null)
    return (
      <ProgressLine
        share={prepared}
        role="timer"
        title="The renderer is compiled for this machine, once. Until then pictures stay drafts, and exports wait."
      >
        {`draft, renderer ${Math.round(100 * prepared)} %`}
      </ProgressLine>
    );
  if (!current || current.stage === "draft") return <ProgressLine>draft</ProgressLine>;
  const samples = `${shown(current.samples)} samples a pixel`;
  if (current.stage === "pass")
    return (
      <ProgressLine role="timer" title={samples}>
        <FinalIn revision={current.revision} />
      </ProgressLine>
    );
  return (
    <ProgressLine share={1} role="status" title={samples}>
      final <small className="text-ink-3">after {shown(Math.round(current.ms / 100) / 10)} s</small>
    </ProgressLine>
  );
}

/** When the picture will be final, counted down. */
function FinalIn({ revision }: { revision: number }) {
  const outlook = useLive((live) => live.outlook);
  const [now, setNow] = useState(performance.now());
  useEffect(() => {
    const clock = setInterval(() => setNow(performance.now()), 500);
    return () => clearInterval(clock);
  }, []);
  if (outlook?.revision !== revision) return "rendering";
  return `final in ${Math.max(Math.ceil((outlook.at - now) / 1000), 1)} s`;
}
