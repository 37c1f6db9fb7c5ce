import { Box, Button, Paper, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { useNavigate } from "react-router";

import { api, type Shoot, type ViewName } from "../kit/api/client";
import { Trouble } from "../kit/Trouble";
import { clampMatch, doubtfulFirst, neighbour } from "./cut.logic";
import { Looking } from "./Looking";
import { ShotPanel } from "./ShotPanel";
import { useBenchKeys } from "./useBenchKeys";

const views: { name: ViewName; word: string }[] = [
  { name: "frame", word: "Frame" },
  { name: "matte", word: "Matte" },
  { name: "white", word: "On white" },
  { name: "loud", word: "On loud" },
  { name: "difference", word: "Difference" },
];

const zooms = [
  { zoom: 0, word: "Whole" },
  { zoom: 1, word: "100 %" },
  { zoom: 2, word: "200 %" },
  { zoom: 4, word: "400 %" },
];

function useShot(shootId: number, shotId: number) {
  const { data: detail, error } = api.useQuery("get", "/api/shots/{shot_id}", { params: { path: { shot_id: shotId } } });
  const { data: shots } = api.useQuery("get", "/api/shoots/{shoot_id}/shots", { params: { path: { shoot_id: shootId } } });
  const order = useMemo(() => doubtfulFirst(shots ?? []), [shots]);
  return { detail, error, order };
}

/** One shot: looked at at any zoom, tuned with one control, kept for itself or carried to others. */
export function Bench({ shoot, shotId }: { shoot: Shoot; shotId: number }) {
  const go = useNavigate();
  const client = useQueryClient();
  const { detail, error, order } = useShot(shoot.id, shotId);
  const [view, setView] = useState<ViewName>("loud");
  const [held, setHeld] = useState(false);
  const [moved, setMoved] = useState<number | null>(null);
  const [zoom, setZoom] = useState(0);
  const [centre, setCentre] = useState<{ x: number; y: number } | null>(null);
  const stored = detail?.treatment.cut.match ?? null;
  const match = moved ?? stored ?? -1;
  const { data: answer } = api.useQuery("get", "/api/shots/{shot_id}/cut", { params: { path: { shot_id: shotId }, query: { match } } }, { placeholderData: (before: unknown) => before as never, enabled: !!detail?.shot.frame });
  const change = api.useMutation("put", "/api/shots/{shot_id}/treatment", {
    onSuccess: () => {
      setMoved(null);
      void client.invalidateQueries();
    },
  });
  const keep = (value: number | null) =>
    detail && change.mutate({ params: { path: { shot_id: shotId } }, body: { cut: value === null ? null : { match: value, material: detail.treatment.cut.material } } });
  const step = (by: 1 | -1) => {
    const next = neighbour(order, shotId, by);
    if (next) void go(`/shoots/${shoot.id}/cut/${next.id}`);
  };
  const value = moved ?? stored ?? answer?.match ?? 50;
  useBenchKeys({
    step,
    view: setView,
    swap: () => setHeld((was) => !was),
    hundred: () => setZoom((was) => (was ? 0 : 1)),
    nudge: (by) => setMoved(clampMatch(value + by)),
    propose: () => setMoved(answer?.proposed ?? null),
    keep: () => moved !== null && keep(moved),
  });
  if (error) return <Box sx={{ p: 2 }}><Trouble fault={error} /></Box>;
  const frame = detail?.shot.frame;
  if (!detail || !frame) return <Box sx={{ p: 2 }}>{detail && <Trouble fault={new Error("This shot has no frame yet; bring one in at the station Shoot.")} />}</Box>;
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "minmax(0, 1fr) 330px" }}>
      <Box sx={{ display: "flex", flexDirection: "column", minHeight: 0 }}>
        <Box sx={{ display: "flex", alignItems: "center", gap: 1.5, px: 2, py: 0.75 }}>
          <Button onClick={() => void go(`/shoots/${shoot.id}/cut`)}>All of the set</Button>
          <ToggleButtonGroup size="small" exclusive value={held ? "frame" : view} onChange={(_, next: ViewName | null) => next && (setHeld(false), setView(next))} aria-label="View">
            {views.map(({ name, word }) => (
              <ToggleButton key={name} value={name} sx={{ px: 1.25, py: 0.25 }}>
                {word}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
          <Box sx={{ flex: 1 }} />
          <ToggleButtonGroup size="small" exclusive value={zoom} onChange={(_, next: number | null) => next !== null && setZoom(next)} aria-label="Zoom">
            {zooms.map((item) => (
              <ToggleButton key={item.zoom} value={item.zoom} sx={{ px: 1.25, py: 0.25 }}>
                {item.word}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
        </Box>
        <Looking
          shotId={shotId}
          frame={frame}
          look={{ view: held ? "frame" : view, match, zoom, centre: centre ?? { x: frame.width / 2, y: frame.height / 2 } }}
          version={`${frame.id}-${shoot.backdrop?.id ?? 0}-${detail.treatment.cut.material}`}
          onMove={setCentre}
          onZoom={(next, at) => {
            setZoom(next);
            setCentre(at);
          }}
        />
      </Box>
      <Paper sx={{ borderWidth: "0 0 0 1px", p: 2, overflow: "auto", display: "flex", flexDirection: "column", gap: 1.25 }}>
        <ShotPanel
          shoot={shoot}
          detail={detail}
          answer={answer}
          value={value}
          moved={moved !== null}
          onMove={(next) => setMoved(next)}
          onKeep={keep}
          onUndo={() => setMoved(null)}
          busy={change.isPending}
        />
        <Trouble fault={change.error} />
        <Box sx={{ flex: 1 }} />
        <Box sx={{ display: "flex", justifyContent: "space-between" }}>
          <Button onClick={() => step(-1)} disabled={!neighbour(order, shotId, -1)}>
            Shot before
          </Button>
          <Typography sx={{ color: "text.secondary", fontSize: 12, alignSelf: "center" }}>
            {order.findIndex((shot) => shot.id === shotId) + 1} of {order.length}
          </Typography>
          <Button onClick={() => step(1)} disabled={!neighbour(order, shotId, 1)}>
            Next shot
          </Button>
        </Box>
      </Paper>
    </Box>
  );
}
