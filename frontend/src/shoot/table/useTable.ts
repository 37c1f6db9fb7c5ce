import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";

import { api, type Shoot, type Shot } from "../../kit/api/client";
import type { components } from "../../kit/api/schema";
import { clientName } from "./useLive";

export type Studio = components["schemas"]["StudioPublic"];
export type AtTable = components["schemas"]["NextShot"];
export type TakeKind = "product" | "backdrop" | "silhouette" | "backlit";
export type Order = "product" | "angle";

/** The shot that the list names, or one that was picked; and the shot that got the newest take. */
export function useNamedShot(shoot: Shoot, order: Order) {
  const [search, setSearch] = useSearchParams();
  // The board links to a shot; that one comes first.
  const [picked, setPicked] = useState<number | null>(Number(search.get("shot")) || null);
  const pick = (shotId: number | null) => {
    setPicked(shotId);
    if (search.has("shot"))
      setSearch(
        (was) => {
          was.delete("shot");
          return was;
        },
        { replace: true },
      );
  };
  const ofShoot = { path: { shoot_id: shoot.id } };
  const { data: next } = api.useQuery("get", "/api/shoots/{shoot_id}/next-shot", { params: { ...ofShoot, query: { order } } });
  const { data: latest } = api.useQuery("get", "/api/shoots/{shoot_id}/latest-take", { params: ofShoot });
  const { data: shots = [] } = api.useQuery("get", "/api/shoots/{shoot_id}/shots", { params: ofShoot });
  const named = useAtTable(picked ?? next?.id ?? null);
  const last = useAtTable(latest?.shot_id ?? null);
  /** A code typed or scanned: this product at the angle that is on, or at its first. */
  const jump = (code: string): boolean => {
    const of = shots.filter((each) => each.code.toLowerCase() === code.toLowerCase());
    const found = of.find((each) => each.angle === named?.shot?.angle) ?? of.find((each) => !each.frame) ?? of[0];
    if (found) pick(found.id);
    return found !== undefined;
  };
  return { named, last, shots, picked, pick, jump };
}

function useAtTable(shotId: number | null): AtTable | undefined {
  const { data } = api.useQuery("get", "/api/shots/{shot_id}/at-table", { params: { path: { shot_id: shotId ?? 0 } } }, { enabled: shotId !== null });
  return shotId === null ? undefined : data;
}

/** Everything that presses the shutter. One order at a time. */
export function useShutter(ready: boolean) {
  const client = useQueryClient();
  const after = { onSettled: () => void client.invalidateQueries() };
  const release = api.useMutation("post", "/api/shots/{shot_id}/release", after);
  const series = api.useMutation("post", "/api/shots/{shot_id}/series", after);
  const spin = api.useMutation("post", "/api/shots/{shot_id}/spin", after);
  const collect = api.useMutation("post", "/api/shots/{shot_id}/collect", after);
  const halt = api.useMutation("post", "/api/studio/halt");
  const orders = [release, series, spin, collect];
  const busy = orders.some((order) => order.isPending);
  const free = ready && !busy;
  const by = { client: clientName, take_over: false };
  const path = (shot: Shot) => ({ params: { path: { shot_id: shot.id } } });
  const forget = () => orders.forEach((order) => order.reset());
  return {
    busy,
    long: series.isPending || spin.isPending,
    fault: orders.find((order) => order.error)?.error ?? null,
    take: (shot: Shot, kind: TakeKind, done?: () => void) => {
      if (!free) return;
      forget();
      release.mutate({ ...path(shot), body: { ...by, kind } }, { onSuccess: done });
    },
    /** Without points, a series that was broken off goes on. */
    takeSeries: (shot: Shot, points: { near_mm: number; far_mm: number } | null) => {
      if (!free) return;
      forget();
      series.mutate({ ...path(shot), body: { ...by, near_mm: points?.near_mm ?? null, far_mm: points?.far_mm ?? null } });
    },
    takeSpin: (shot: Shot) => {
      if (!free) return;
      forget();
      spin.mutate({ ...path(shot), body: by });
    },
    collect: (shot: Shot) => free && collect.mutate(path(shot)),
    halt: () => halt.mutate({}),
  };
}

export type Shutter = ReturnType<typeof useShutter>;
