import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { api } from "./api/client";
import { Progress } from "./ui/Progress";

const ASK_MS = 1000;

/** Waits until Halvex can make its first draft: on a new machine, some minutes. */
export function Opening({ children }: { children: ReactNode }) {
  const { data, isError } = useQuery({
    queryKey: ["opening"],
    queryFn: api.opening,
    refetchInterval: ({ state }) => (state.data?.share === 1 ? false : ASK_MS),
  });
  // A server that does not answer is the screen's to explain.
  if (isError || data?.share === 1) return children;
  if (data === undefined) return null;
  return (
    <main className="grid h-full place-content-center gap-2 p-6">
      <h1 className="font-bold text-title [font-stretch:116%]">Halvex</h1>
      <p className="max-w-[46ch]">
        The renderer is being compiled for this computer. This happens once, and after updates. You can start as soon as drafts
        can be drawn; final quality follows while you work.
      </p>
      <Progress label="Compiling the renderer" share={data.share} />
      <p className="tabular-nums">{timeLeft(data.seconds)}</p>
    </main>
  );
}

function timeLeft(seconds: number): string {
  if (seconds >= 90) return `About ${Math.round(seconds / 60)} minutes left`;
  return seconds >= 10 ? `About ${Math.round(seconds / 10) * 10} seconds left` : "Almost there";
}
