import { useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";

import { api, type DrawnShape, type Touch, type Treatment } from "../../kit/api/client";
import type { components } from "../../kit/api/schema";
import { doubtfulFirst } from "../cut.logic";
import { fingerprint } from "./stage.logic";

type Name = "cut" | "touches" | "outlines" | "edge" | "clear";
/** Sections to replace; null is inherited again. */
type Sections = { [Each in Name]?: Treatment[Each] | { strokes: Touch[] } | { shapes: DrawnShape[] } | null };
type Body = components["schemas"]["TreatmentChange"];

/** The shot on the bench, its place among the doubtful ones, and all that changes it. */
export function useBench(shootId: number, shotId: number) {
  const client = useQueryClient();
  const path = { params: { path: { shot_id: shotId } } };
  const { data: detail, error } = api.useQuery("get", "/api/shots/{shot_id}", path);
  const { data: shots } = api.useQuery("get", "/api/shoots/{shoot_id}/shots", { params: { path: { shoot_id: shootId } } });
  const { data: revisions = [] } = api.useQuery("get", "/api/shots/{shot_id}/revisions", path);
  const order = useMemo(() => doubtfulFirst(shots ?? []), [shots]);
  // A touch is looked at as soon as the program has it, not when the page has read everything anew.
  const [touched, setTouched] = useState(0);
  const again = () => void client.invalidateQueries();
  const change = api.useMutation("put", "/api/shots/{shot_id}/treatment", { onSuccess: again });
  const touch = api.useMutation("post", "/api/shots/{shot_id}/touches", {
    onSuccess: (made) => {
      setTouched(made.revision);
      again();
    },
  });
  const back = api.useMutation("post", "/api/shots/{shot_id}/take-back", { onSuccess: again });
  const undo = api.useMutation("post", "/api/shots/{shot_id}/undo", { onSuccess: again });
  const accept = api.useMutation("post", "/api/shots/{shot_id}/accept", { onSuccess: again });
  const { treatment } = detail ?? {};
  const version = useMemo(
    () => fingerprint([treatment?.cut.material, treatment?.cut.framing, treatment?.cut.silhouette, treatment?.touches, treatment?.outlines, treatment?.edge, treatment?.clear, detail?.shot.frame?.id, touched]),
    [treatment, detail, touched],
  );
  return {
    detail,
    shots: shots ?? [],
    order,
    revisions,
    version,
    fault: error ?? change.error ?? touch.error ?? back.error ?? undo.error ?? accept.error,
    missing: error,
    busy: change.isPending || back.isPending || undo.isPending,
    set: (said: string, sections: Sections) => change.mutate({ ...path, body: { said, ...sections } as Body }),
    touch: (stroke: Touch) => touch.mutate({ ...path, body: stroke }),
    choose: (revision: number) => back.mutate({ ...path, body: { revision } }),
    undo: () => undo.mutate(path),
    accept: (accepted: boolean) => accept.mutate({ ...path, body: { accepted } }),
  };
}

export type BenchWork = ReturnType<typeof useBench>;
