import { Box, Button, FormControlLabel, Switch, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";

import { api } from "../../kit/api/client";
import { sentence } from "../../kit/format";
import { Trouble } from "../../kit/Trouble";
import { seriesSaid, stepsSaid } from "./series.logic";
import type { Pointing, PointingState } from "./usePointing";
import type { AtTable, Shutter, Studio } from "./useTable";

const FINE_MM = 5;
const COARSE_MM = 40;
const steps = [
  { by: -COARSE_MM, label: "much nearer", face: "−40" },
  { by: -FINE_MM, label: "a little nearer", face: "−5" },
  { by: FINE_MM, label: "a little farther", face: "+5" },
  { by: COARSE_MM, label: "much farther", face: "+40" },
];

interface Props {
  studio: Studio;
  atTable: AtTable | null;
  pointing: PointingState;
  onPoint: (kind: Pointing) => void;
  onSeries: (points: { near_mm: number; far_mm: number } | null) => void;
  shutter: Shutter;
  ready: boolean;
}

/** Focus by point or by hand, and a focus series from a near to a far point. */
export function FocusPanel({ studio, atTable, pointing, onPoint, onSeries, shutter, ready }: Props) {
  const client = useQueryClient();
  const change = api.useMutation("put", "/api/studio/camera", { onSuccess: () => void client.invalidateQueries({ queryKey: ["get", "/api/studio"] }) });
  const { near, far } = pointing;
  const points = near && far ? { near_mm: near.mm, far_mm: far.mm } : null;
  const { data: proposed, error } = api.useQuery("get", "/api/studio/focus-steps", { params: { query: points ?? { near_mm: 0, far_mm: 0 } } }, { enabled: points !== null });
  const camera = studio.camera;
  if (!camera) return null;
  const series = atTable?.series ?? null;
  const brokenOff = series?.state === "shooting" && !shutter.long;
  const shot = atTable?.shot;
  const focus = (by: number) => change.mutate({ body: { ...camera, focus_mm: Math.max(300, camera.focus_mm + by), autofocus: false } });
  return (
    <Box>
      <Box sx={{ display: "flex", gap: 0.5, alignItems: "center", mb: 1 }}>
        {steps.map(({ by, label, face }) => (
          <Button key={by} variant="outlined" aria-label={`Focus ${label}`} onClick={() => focus(by)} sx={{ minWidth: 40, px: 0.5 }}>
            {face}
          </Button>
        ))}
        <Button variant={pointing.kind === "focus" ? "contained" : "outlined"} onClick={() => onPoint(pointing.kind === "focus" ? null : "focus")}>
          By pointing
        </Button>
        <Typography sx={{ fontSize: 12, ml: "auto", whiteSpace: "nowrap" }}>{Math.round(camera.focus_mm)} mm</Typography>
      </Box>
      <FormControlLabel
        control={<Switch size="small" checked={camera.autofocus} onChange={(_, autofocus) => change.mutate({ body: { ...camera, autofocus } })} />}
        label="Automatic focus; manual for the empty set"
        slotProps={{ typography: { sx: { fontSize: 12 } } }}
      />
      <Typography sx={{ fontWeight: 650, mt: 1 }}>Focus series</Typography>
      <Box sx={{ display: "flex", gap: 0.5, my: 0.5, alignItems: "center" }}>
        <Button variant={pointing.kind === "near" ? "contained" : "outlined"} onClick={() => onPoint("near")}>
          Near point{near && `: ${Math.round(near.mm)}`}
        </Button>
        <Button variant={pointing.kind === "far" ? "contained" : "outlined"} onClick={() => onPoint("far")}>
          Far point{far && `: ${Math.round(far.mm)}`}
        </Button>
        {(near || far) && <Button onClick={pointing.clear}>Clear</Button>}
      </Box>
      {proposed && points && <Typography sx={{ fontSize: 12 }}>{stepsSaid(proposed.steps.length, proposed.f_number)}</Typography>}
      <Trouble fault={error ?? change.error} />
      {series && (
        <Typography role="status" sx={{ fontSize: 12, color: series.state === "failed" ? "error.main" : "text.primary" }}>
          {sentence(seriesSaid(series, shutter.long))}
        </Typography>
      )}
      <Box sx={{ display: "flex", gap: 0.5, mt: 0.5 }}>
        {shutter.long ? (
          <Button variant="outlined" onClick={shutter.halt}>
            Stop after this slice
          </Button>
        ) : (
          <>
            <Button variant="contained" disabled={!shot || !points || (proposed?.steps.length ?? 0) < 2 || !ready || shutter.busy} onClick={() => onSeries(points)}>
              Shoot the series
            </Button>
            {brokenOff && shot && (
              <Button variant="outlined" disabled={!ready || shutter.busy} onClick={() => onSeries(null)}>
                Go on with slice {series.slices + 1}
              </Button>
            )}
          </>
        )}
      </Box>
    </Box>
  );
}
