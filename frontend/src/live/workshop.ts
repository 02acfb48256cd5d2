/** What the workshop offers: asked once, the same for every piece. */
import { useQuery } from "@tanstack/react-query";
import { api, type FieldInfo } from "../api/client";

export function useWorkshop() {
  return useQuery({ queryKey: ["workshop"], queryFn: api.workshop, staleTime: Number.POSITIVE_INFINITY }).data;
}

export function useField(name: string): FieldInfo | undefined {
  return useWorkshop()?.fields[name];
}
