/** What the workshop offers: asked once, the same for every piece. */
import { useSuspenseQuery } from "@tanstack/react-query";
import { api, type FieldInfo, type Workshop } from "../api/client";

/** What shows it waits until it has come: no control acts, and nothing moves under the hand, before. */
export function useWorkshop(): Workshop {
  return useSuspenseQuery({ queryKey: ["workshop"], queryFn: api.workshop, staleTime: Number.POSITIVE_INFINITY, retry: true })
    .data;
}

export function useField(name: string): FieldInfo | undefined {
  return useWorkshop().fields[name];
}
