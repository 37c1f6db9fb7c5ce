import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../../kit/api/client";
import type { Studio } from "./useTable";

/** What the next point in the live view will be for. */
export type Pointing = "neutral" | "focus" | "near" | "far" | null;

/** A marked point: where it lies (parts of width and height), and how far away it is in mm. */
export interface Mark {
  x: number;
  y: number;
  mm: number;
}

/** Pointing at the live view: something neutral, something to focus on, near and far point of a focus series. */
export function usePointing() {
  const client = useQueryClient();
  const renewed = { onSettled: () => void client.invalidateQueries({ queryKey: ["get", "/api/studio"] }) };
  const neutral = api.useMutation("post", "/api/studio/neutral", renewed);
  const focus = api.useMutation("post", "/api/studio/focus-at", renewed);
  const [kind, ask] = useState<Pointing>(null);
  const [near, setNear] = useState<Mark | null>(null);
  const [far, setFar] = useState<Mark | null>(null);
  const at = (x: number, y: number) => {
    const was = kind;
    ask(null);
    if (was === "neutral") neutral.mutate({ body: { x, y } });
    else if (was !== null)
      focus.mutate(
        { body: { x, y } },
        {
          onSuccess: (studio: Studio) => {
            const mark = { x, y, mm: studio.camera?.focus_mm ?? 0 };
            if (was === "near") setNear(mark);
            if (was === "far") setFar(mark);
          },
        },
      );
  };
  const clear = () => {
    setNear(null);
    setFar(null);
  };
  return { kind, ask, at, near, far, clear, fault: neutral.error ?? focus.error };
}

export type PointingState = ReturnType<typeof usePointing>;
