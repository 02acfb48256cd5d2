import { type ComponentType, type CSSProperties, lazy, Suspense, useCallback, useEffect, useState } from "react";
import { api } from "./api/client";
import { CommandList } from "./commands/CommandList";
import { KeySheet } from "./commands/KeySheet";
import { useCommandKeys } from "./commands/useCommandKeys";
import { BlockMenu } from "./components/BlockMenu";
import { Header, type Surround } from "./components/Header";
import { RecipeLine } from "./components/RecipeLine";
import { useDroppedFiles } from "./components/useDroppedFiles";
import { deskNow, PANEL, useDesk } from "./live/desk";
import { liveNow, useLive } from "./live/store";
import { Stage } from "./stage/Stage";
import { SetStation } from "./stations/set/SetStation";
import { STATIONS, type Station } from "./stations/stations";
import { Panel } from "./ui/Panel";
import { TabPanel, Tabs } from "./ui/Tabs";
import { Toasts } from "./ui/Toasts";
import { TooltipProvider } from "./ui/Tooltip";

/** The first station comes with the screen, each of the others when it is opened. */
const PANELS: Record<Station, ComponentType> = {
  set: SetStation,
  form: lazy(async () => ({ default: (await import("./stations/form/FormStation")).FormStation })),
  view: lazy(async () => ({ default: (await import("./stations/view/ViewStation")).ViewStation })),
  light: lazy(async () => ({ default: (await import("./stations/light/LightStation")).LightStation })),
  surface: lazy(async () => ({ default: (await import("./stations/surface/SurfaceStation")).SurfaceStation })),
  backdrop: lazy(async () => ({ default: (await import("./stations/backdrop/BackdropStation")).BackdropStation })),
  finish: lazy(async () => ({ default: (await import("./stations/finish/FinishStation")).FinishStation })),
  export: lazy(async () => ({ default: (await import("./stations/export/ExportStation")).ExportStation })),
};

/** Stations whose numbers are those of one block. */
const OF_A_BLOCK = new Set<Station>(["set", "form", "surface"]);

/** One screen: header, recipe line, stage, panel. The address names the open piece. */
export function App() {
  const station = useDesk((desk) => desk.station);
  const setStation = deskNow().openStation;
  const alone = useDesk((desk) => desk.alone);
  const panel = useDesk((desk) => desk.panel);
  const [surround, setSurround] = useState<Surround>("middle");
  const ready = useLive((live) => live.piece !== null);
  useCommandKeys();

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

  useDroppedFiles(openPiece);

  const Controls = PANELS[station];
  const name = STATIONS.find((entry) => entry.id === station)?.name ?? "";
  return (
    <TooltipProvider delayDuration={400}>
      <Tabs
        value={station}
        onOpen={setStation}
        className={`grid h-full ${alone ? "" : "grid-cols-[minmax(0,1fr)_var(--panel)] grid-rows-[44px_68px_minmax(0,1fr)] max-[820px]:h-auto max-[820px]:grid-cols-[minmax(0,1fr)] max-[820px]:grid-rows-[auto_auto_62vh_auto]"}`}
        style={{ "--panel": `${panel}px` } as CSSProperties}
      >
        {!alone && (
          <>
            <Header surround={surround} onSurround={setSurround} onOpenPiece={openPiece} onExport={() => setStation("export")} />
            <RecipeLine open={station} />
          </>
        )}
        <Stage surround={surround} />
        {!alone && (
          <Panel
            title={name}
            actions={ready && OF_A_BLOCK.has(station) && <BlockMenu />}
            width={panel}
            least={PANEL.least}
            most={PANEL.most}
            onWidth={deskNow().widen}
          >
            <TabPanel value={station}>
              {ready && (
                <Suspense>
                  <Controls key={station} />
                </Suspense>
              )}
            </TabPanel>
          </Panel>
        )}
        <LastEdit />
        <CommandList />
        <KeySheet />
        <Toasts />
      </Tabs>
    </TooltipProvider>
  );
}

/** Says to a screen reader what was done, as the history tells it. */
function LastEdit() {
  const done = useLive((live) => live.piece?.undo);
  return (
    <p className="sr-only" role="status" aria-label="Last edit">
      {done}
    </p>
  );
}
