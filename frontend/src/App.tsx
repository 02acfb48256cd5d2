import { useCallback, useEffect, useState } from "react";
import { api } from "./api/client";
import { BlockMenu } from "./components/BlockMenu";
import { CommandSheet } from "./components/CommandSheet";
import { Header, type Surround } from "./components/Header";
import { KeySheet } from "./components/KeySheet";
import { RecipeLine } from "./components/RecipeLine";
import { useKeys } from "./keys";
import { deskNow, useDesk } from "./live/desk";
import { liveNow, useLive } from "./live/store";
import { Stage } from "./stage/Stage";
import { BackdropStation } from "./stations/backdrop/BackdropStation";
import { ExportStation } from "./stations/export/ExportStation";
import { FormStation } from "./stations/form/FormStation";
import { LightStation } from "./stations/light/LightStation";
import { SetStation } from "./stations/set/SetStation";
import { STATIONS, type Station } from "./stations/stations";
import { SurfaceStation } from "./stations/surface/SurfaceStation";
import { ViewStation } from "./stations/view/ViewStation";

const PANELS: Record<Station, () => React.ReactNode> = {
  set: SetStation,
  form: FormStation,
  view: ViewStation,
  light: LightStation,
  surface: SurfaceStation,
  backdrop: BackdropStation,
  export: ExportStation,
};

/** Stations whose numbers are those of one block. */
const OF_A_BLOCK = new Set<Station>(["set", "form", "surface"]);

/** One screen: header, recipe line, stage, panel. The address names the open piece. */
export function App() {
  const station = useDesk((desk) => desk.station);
  const setStation = deskNow().openStation;
  const [surround, setSurround] = useState<Surround>("middle");
  const ready = useLive((live) => live.piece !== null);
  useKeys(setStation);

  const openPiece = useCallback((id: string) => {
    if (location.pathname !== `/piece/${id}`) history.pushState(null, "", `/piece/${id}`);
    liveNow().open(id);
  }, []);

  useEffect(() => {
    const fromAddress = () => location.pathname.match(/^\/piece\/(\w+)$/)?.[1];
    const start = async () => {
      const named = fromAddress();
      if (named) return openPiece(named);
      const first = (await api.pieces()).pieces[0];
      openPiece(first ? first.id : (await api.create()).id);
    };
    void start();
    const back = () => {
      const named = fromAddress();
      if (named) liveNow().open(named);
    };
    window.addEventListener("popstate", back);
    return () => window.removeEventListener("popstate", back);
  }, [openPiece]);

  const Panel = PANELS[station];
  return (
    <div className="screen">
      <Header surround={surround} onSurround={setSurround} onOpenPiece={openPiece} onExport={() => setStation("export")} />
      <RecipeLine open={station} onOpen={setStation} />
      <Stage surround={surround} />
      <aside className="panel" aria-label={STATIONS.find((entry) => entry.id === station)?.name}>
        <header className="panel-head">
          <h2>{STATIONS.find((entry) => entry.id === station)?.name}</h2>
          {ready && OF_A_BLOCK.has(station) && <BlockMenu />}
        </header>
        {ready && <Panel key={station} />}
      </aside>
      <Told />
      <CommandSheet />
      <KeySheet />
    </div>
  );
}

/** Says to a screen reader what was done, as the history tells it. */
function Told() {
  const done = useLive((live) => live.piece?.undo);
  return (
    <p className="only-heard" role="status" aria-label="Last edit">
      {done}
    </p>
  );
}
