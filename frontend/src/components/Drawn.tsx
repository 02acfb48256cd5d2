import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, type Material, type Surround } from "../api/client";
import { usePaints } from "../live/paints";
import { useLive } from "../live/store";

/** A small picture the server draws to order; the last one stays until the next is there. */
function Drawn({ of, draw, className }: { of: unknown[]; draw: () => Promise<Blob>; className: string }) {
  const drawn = useQuery({
    queryKey: of,
    queryFn: draw,
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: (before) => before,
  }).data;
  const [address, setAddress] = useState("");
  useEffect(() => {
    if (!drawn) return;
    const made = URL.createObjectURL(drawn);
    setAddress(made);
    return () => URL.revokeObjectURL(made);
  }, [drawn]);
  return address ? <img className={className} src={address} alt="" /> : <span className={className} />;
}

/** A test plate of a material under the piece's own lamps; `size` are the utilities that give it its size. */
export function Coupon({ material, size }: { material: Material; size: string }) {
  const id = useLive((live) => live.piece?.id ?? "");
  const light = useLive((live) => JSON.stringify(live.piece?.document.light));
  const paints = usePaints();
  return (
    <Drawn
      className={`block shrink-0 bg-paper-recess object-cover ${size}`}
      of={["coupon", id, light, material, paints]}
      draw={() => api.coupon(id, material)}
    />
  );
}

/** Surroundings, all directions unrolled. */
export function SurroundPicture({ surround }: { surround: Partial<Surround> }) {
  const paints = usePaints();
  return (
    <Drawn
      className="block aspect-[3/2] w-full bg-paper-recess object-cover"
      of={["surround", surround, paints]}
      draw={() => api.surround(surround, paints)}
    />
  );
}
