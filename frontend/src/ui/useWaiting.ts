import { useState } from "react";

/** Whether something is under way, and a way to run it: while it runs, nothing is started twice. */
export function useWaiting(): [boolean, (run: () => Promise<unknown>) => Promise<void>] {
  const [waiting, setWaiting] = useState(false);
  async function start(run: () => Promise<unknown>) {
    if (waiting) return;
    setWaiting(true);
    try {
      await run();
    } finally {
      setWaiting(false);
    }
  }
  return [waiting, start];
}
