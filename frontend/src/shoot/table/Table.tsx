import { Alert, Box, Button, Slider, ToggleButton, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";

import { api, type Shoot, type Shot } from "../../kit/api/client";
import type { components } from "../../kit/api/schema";
import { keys } from "../../kit/keys";
import { Trouble } from "../../kit/Trouble";
import { CameraPanel } from "./CameraPanel";
import { Hands } from "./Hands";
import { Histogram } from "./Histogram";
import { LastTake } from "./LastTake";
import { type GuideLook, LiveView } from "./LiveView";
import { NextShot, type Order } from "./NextShot";
import { Placement } from "./Placement";
import { SetPlan } from "./SetPlan";
import { SetUps } from "./SetUps";
import { clientName, useLive, useWord } from "./useLive";
import { useScanner } from "./useScanner";

type Studio = components["schemas"]["StudioPublic"];
type Kind = "product" | "backdrop" | "silhouette";

const FLICKER_MS = 350;

/** The guide blinks between fully there and away, so that a mark that moves shows. */
function useFlicker(on: boolean): boolean {
  const [hidden, setHidden] = useState(false);
  useEffect(() => {
    if (!on) return;
    const timer = window.setInterval(() => setHidden((was) => !was), FLICKER_MS);
    return () => {
      window.clearInterval(timer);
      setHidden(false);
    };
  }, [on]);
  return hidden;
}

function useNamedShot(shoot: Shoot, order: Order) {
  const [picked, setPicked] = useState<number | null>(null);
  const { data: next } = api.useQuery("get", "/api/shoots/{shoot_id}/next-shot", { params: { path: { shoot_id: shoot.id }, query: { order } } });
  const shotId = picked ?? next?.id ?? null;
  const { data: atTable } = api.useQuery("get", "/api/shots/{shot_id}/at-table", { params: { path: { shot_id: shotId ?? 0 } } }, { enabled: shotId !== null });
  return { shotId, atTable: shotId === null ? undefined : atTable, pick: setPicked };
}

export function Table({ shoot, studio }: { shoot: Shoot; studio: Studio }) {
  const client = useQueryClient();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [order, setOrder] = useState<Order>("product");
  const { shotId, atTable, pick } = useNamedShot(shoot, order);
  const [lastId, setLastId] = useState<number | null>(null);
  const [look, setLook] = useState<Omit<GuideLook, "hidden">>({ opacity: 50, outline: false });
  const [flicker, setFlicker] = useState(false);
  const [pointing, setPointing] = useState(false);
  const [hands, setHands] = useState(studio.simulated && window.innerWidth > 1500);
  const hidden = useFlicker(flicker);

  const draw = useCallback((picture: ImageBitmap) => {
    const surface = canvas.current?.getContext("2d");
    if (surface) surface.drawImage(picture, 0, 0, surface.canvas.width, surface.canvas.height);
    picture.close();
  }, []);
  const live = useLive(shotId, draw);
  const { data: shots = [] } = api.useQuery("get", "/api/shoots/{shoot_id}/shots", { params: { path: { shoot_id: shoot.id } } });
  const { data: lastTake } = api.useQuery("get", "/api/shots/{shot_id}/at-table", { params: { path: { shot_id: lastId ?? 0 } } }, { enabled: lastId !== null });

  const release = api.useMutation("post", "/api/shots/{shot_id}/release", { onSettled: () => void client.invalidateQueries() });
  const guide = api.useMutation("put", "/api/shots/{shot_id}/guide", { onSuccess: () => void client.invalidateQueries() });
  const skip = api.useMutation("put", "/api/shots/{shot_id}/skip", { onSuccess: () => void client.invalidateQueries() });
  const neutral = api.useMutation("post", "/api/studio/neutral", { onSettled: () => void client.invalidateQueries({ queryKey: ["get", "/api/studio"] }) });

  const shot: Shot | null = atTable?.shot ?? null;
  const trouble = useWord(live, (word) => word.trouble ?? null);
  const heldElsewhere = useWord(live, (word) => word.held_elsewhere);
  const ready = studio.connected && trouble === null && !heldElsewhere;
  const take = (kind: Kind) => {
    if (!shot || release.isPending || !ready) return;
    release.mutate(
      { params: { path: { shot_id: shot.id } }, body: { client: clientName, kind, take_over: false } },
      {
        onSuccess: (made) => {
          if (kind !== "product") return;
          setLastId(made.shot.id);
          pick(null);
        },
      },
    );
  };
  const jump = (code: string) => {
    const of = shots.filter((each) => each.code.toLowerCase() === code.toLowerCase());
    const found = of.find((each) => each.angle === shot?.angle) ?? of[0];
    if (found) pick(found.id);
    return found !== undefined;
  };
  useScanner(jump);
  useHotkeys(keys.shutter.keys, () => take("product"));
  useHotkeys(keys.emptySet.keys, () => take("backdrop"));
  useHotkeys(keys.onward.keys, () => pick(null));
  useHotkeys(keys.again.keys, () => lastId !== null && pick(lastId));
  useHotkeys(keys.flicker.keys, () => setFlicker((was) => !was));
  useHotkeys(keys.outline.keys, () => setLook((was) => ({ ...was, outline: !was.outline })));

  const left = shots.filter((each) => !each.frame && !each.skipped).length;
  const last = lastTake?.shot ?? null;
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "minmax(0, 1fr) 360px", mr: hands ? "340px" : 0 }}>
      <Box sx={{ minWidth: 0, minHeight: 0, display: "flex", flexDirection: "column" }}>
        <LiveView
          canvas={canvas}
          guide={atTable?.guide ?? null}
          look={{ ...look, opacity: flicker ? 100 : look.opacity, hidden }}
          trouble={trouble}
          pointing={pointing}
          onPoint={(x, y) => {
            setPointing(false);
            neutral.mutate({ body: { x, y } });
          }}
        />
        <Placement live={live} />
        <Box sx={{ px: 2, py: 1, borderTop: 1, borderColor: "divider", flexShrink: 0 }}>
          <CameraPanel studio={studio} pointing={pointing} onPointing={setPointing} />
          <Trouble fault={neutral.error} />
        </Box>
      </Box>
      <Box sx={{ minHeight: 0, overflow: "auto", p: 1.5, display: "flex", flexDirection: "column", gap: 1.5, borderLeft: 1, borderColor: "divider" }}>
        {heldElsewhere && (
          <Alert severity="info" action={<Button onClick={() => live.takeOver()}>Take it over</Button>}>
            Another window holds the shutter.
          </Alert>
        )}
        <Trouble fault={release.error} />
        <NextShot
          shot={shot}
          left={left}
          order={order}
          onOrder={setOrder}
          onCode={jump}
          onTake={() => take("product")}
          onEmptySet={() => take("backdrop")}
          onSilhouette={() => take("silhouette")}
          onSkip={() => shot && skip.mutate({ params: { path: { shot_id: shot.id } }, body: { skipped: true } }, { onSuccess: () => pick(null) })}
          hasBackdrop={atTable?.backdrop != null}
          busy={release.isPending}
          ready={ready}
        />
        <LastTake
          shot={last}
          isGuide={lastTake?.guide?.frame.id === last?.frame?.id}
          onGuide={(frameId) => last && guide.mutate({ params: { path: { shot_id: last.id } }, body: { frame_id: frameId } })}
          onAgain={() => lastId !== null && pick(lastId)}
        />
        <Box>
          <Typography sx={{ fontSize: 12 }}>{atTable?.guide ? `Guide ${flicker ? "flickers" : `${look.opacity} %`}` : "No guide for this angle yet: make a take the guide"}</Typography>
          <Box sx={{ display: "flex", gap: 1.5, alignItems: "center" }}>
            <Slider size="small" aria-label="Guide opacity" disabled={!atTable?.guide || flicker} value={look.opacity} onChange={(_, opacity) => setLook({ ...look, opacity })} />
            <ToggleButton value="outline" size="small" selected={look.outline} disabled={!atTable?.guide} onChange={() => setLook({ ...look, outline: !look.outline })} sx={{ py: 0.25, textTransform: "none" }}>
              Outline
            </ToggleButton>
            <ToggleButton value="flicker" size="small" selected={flicker} disabled={!atTable?.guide} onChange={() => setFlicker(!flicker)} sx={{ py: 0.25, textTransform: "none" }}>
              Flicker
            </ToggleButton>
          </Box>
        </Box>
        <Histogram live={live} />
        <SetPlan studio={studio} />
        <SetUps />
        {studio.simulated && (
          <Button variant="outlined" onClick={() => setHands(!hands)} sx={{ alignSelf: "flex-start" }}>
            {hands ? "Put the hands away" : "Hands of the simulated studio"}
          </Button>
        )}
      </Box>
      {studio.simulated && <Hands open={hands} onClose={() => setHands(false)} code={shot?.code} angle={shot?.angle} />}
    </Box>
  );
}
