import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../../kit/api/client";
import type { Framing } from "./framing.logic";

/** The framing box of the shoot, and one that is being drawn. */
export function useFraming(shootId: number, kept: Framing | null) {
  const client = useQueryClient();
  const change = api.useMutation("put", "/api/shoots/{shoot_id}/framing", { onSuccess: () => client.invalidateQueries() });
  const [drawn, draw] = useState<Framing | null>(null);
  const set = (framing: Framing | null) => change.mutate({ params: { path: { shoot_id: shootId } }, body: { framing } }, { onSuccess: () => draw(null) });
  return { kept, drawn, draw, set, fault: change.error };
}

export type FramingState = ReturnType<typeof useFraming>;
