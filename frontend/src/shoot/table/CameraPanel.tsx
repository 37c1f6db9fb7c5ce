import { Box, Button, MenuItem, Select, TextField, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";

import { api } from "../../kit/api/client";
import type { components } from "../../kit/api/schema";
import { plural } from "../../kit/format";
import { Trouble } from "../../kit/Trouble";
import { Histogram } from "./Histogram";
import type { LiveLine } from "./useLive";
import type { Studio } from "./useTable";

type Camera = components["schemas"]["CameraSettings"];

const SHUTTERS = [1 / 8, 1 / 15, 1 / 30, 1 / 60, 1 / 80, 1 / 100, 1 / 125, 1 / 160, 1 / 200, 1 / 250, 1 / 320, 1 / 500];
const APERTURES = [2.8, 4, 5.6, 8, 9, 10, 11, 13, 14, 16, 22];
const ISOS = [100, 125, 160, 200, 400, 800, 1600];

/** The given choices, and the camera's own value among them even when it is none of them. */
function withOwn(choices: number[], own: number): number[] {
  return choices.some((choice) => Math.abs(choice - own) < 1e-9) ? choices : [...choices, own].sort((a, b) => a - b);
}

function Choice({ label, value, choices, show, onChoose }: { label: string; value: number; choices: number[]; show: (value: number) => string; onChoose: (value: number) => void }) {
  return (
    <Box>
      <Typography sx={{ fontSize: 11.5, color: "text.secondary" }}>{label}</Typography>
      <Select value={value} onChange={(event) => onChoose(event.target.value)} inputProps={{ "aria-label": label }} sx={{ minWidth: 82, bgcolor: "#fff" }}>
        {withOwn(choices, value).map((choice) => (
          <MenuItem key={choice} value={choice}>
            {show(choice)}
          </MenuItem>
        ))}
      </Select>
    </Box>
  );
}

interface Props {
  studio: Studio;
  live: LiveLine;
  pointing: boolean;
  onPointing: (on: boolean) => void;
}

/** Exposure and white balance. */
export function CameraPanel({ studio, live, pointing, onPointing }: Props) {
  const client = useQueryClient();
  const change = api.useMutation("put", "/api/studio/camera", { onSuccess: () => void client.invalidateQueries({ queryKey: ["get", "/api/studio"] }) });
  const camera = studio.camera;
  if (!camera) return null;
  const set = (next: Partial<Camera>) => change.mutate({ body: { ...camera, ...next } });
  return (
    <Box sx={{ display: "flex", gap: 1.25, alignItems: "flex-end" }}>
      <Choice label="Shutter" value={camera.shutter_s} choices={SHUTTERS} show={(s) => (s < 1 ? `1/${Math.round(1 / s)}` : `${s} s`)} onChoose={(shutter_s) => set({ shutter_s })} />
      <Choice label="Aperture" value={camera.f_number} choices={APERTURES} show={(n) => `f/${n}`} onChoose={(f_number) => set({ f_number })} />
      <Choice label="ISO" value={camera.iso} choices={ISOS} show={String} onChoose={(iso) => set({ iso })} />
      <Box>
        <Typography sx={{ fontSize: 11.5, color: "text.secondary" }}>White balance</Typography>
        <TextField
          key={camera.kelvin}
          defaultValue={camera.kelvin}
          type="number"
          slotProps={{ htmlInput: { "aria-label": "White balance in kelvin", step: 50, min: 2000, max: 12000 } }}
          onBlur={(event) => Number(event.target.value) !== camera.kelvin && set({ kelvin: Number(event.target.value) })}
          onKeyDown={(event) => event.key === "Enter" && (event.target as HTMLInputElement).blur()}
          sx={{ width: 92, bgcolor: "#fff" }}
        />
      </Box>
      <Button variant={pointing ? "contained" : "outlined"} onClick={() => onPointing(!pointing)} sx={{ height: 36, whiteSpace: "nowrap" }}>
        By pointing
      </Button>
      <Box sx={{ ml: "auto", fontSize: 12, color: "text.secondary", whiteSpace: "nowrap" }}>
        <div>
          Focus {camera.autofocus ? "automatic" : "manual"}, {Math.round(camera.focus_mm)} mm
        </div>
        {studio.card_free !== null && <div>{plural(studio.card_free, "picture")} left on the card</div>}
      </Box>
      <Box sx={{ width: 150 }}>
        <Histogram live={live} />
      </Box>
      <Trouble fault={change.error} />
    </Box>
  );
}
