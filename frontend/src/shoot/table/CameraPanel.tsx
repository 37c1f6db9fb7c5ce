import { Box, Button, FormControlLabel, MenuItem, Select, Switch, TextField, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";

import { api } from "../../kit/api/client";
import type { components } from "../../kit/api/schema";
import { Trouble } from "../../kit/Trouble";

type Studio = components["schemas"]["StudioPublic"];
type Camera = components["schemas"]["CameraSettings"];

const SHUTTERS = [1 / 8, 1 / 15, 1 / 30, 1 / 60, 1 / 80, 1 / 100, 1 / 125, 1 / 160, 1 / 200, 1 / 250, 1 / 320, 1 / 500];
const APERTURES = [2.8, 4, 5.6, 8, 9, 10, 11, 13, 14, 16, 22];
const ISOS = [100, 125, 160, 200, 400, 800, 1600];
const FINE_MM = 5;
const COARSE_MM = 40;

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
  pointing: boolean;
  onPointing: (on: boolean) => void;
}

/** Exposure, white balance and focus. */
export function CameraPanel({ studio, pointing, onPointing }: Props) {
  const client = useQueryClient();
  const change = api.useMutation("put", "/api/studio/camera", { onSuccess: () => void client.invalidateQueries({ queryKey: ["get", "/api/studio"] }) });
  const camera = studio.camera;
  if (!camera) return null;
  const set = (next: Partial<Camera>) => change.mutate({ body: { ...camera, ...next } });
  const focus = (by: number) => set({ focus_mm: Math.max(300, camera.focus_mm + by), autofocus: false });
  return (
    <Box sx={{ display: "flex", gap: 1.25, alignItems: "flex-end", flexWrap: "wrap" }}>
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
      <Button variant={pointing ? "contained" : "outlined"} onClick={() => onPointing(!pointing)} sx={{ height: 36 }}>
        {pointing ? "Point at something grey" : "By pointing"}
      </Button>
      <Box>
        <Typography sx={{ fontSize: 11.5, color: "text.secondary" }}>Focus {Math.round(camera.focus_mm)} mm</Typography>
        <Box sx={{ display: "flex", gap: 0.5 }}>
          {[
            { by: -COARSE_MM, label: "Much nearer", face: "−40" },
            { by: -FINE_MM, label: "A little nearer", face: "−5" },
            { by: FINE_MM, label: "A little farther", face: "+5" },
            { by: COARSE_MM, label: "Much farther", face: "+40" },
          ].map(({ by, label, face }) => (
            <Button key={by} variant="outlined" aria-label={`Focus ${label.toLowerCase()}`} onClick={() => focus(by)} sx={{ minWidth: 40, height: 36, px: 0.5 }}>
              {face}
            </Button>
          ))}
        </Box>
      </Box>
      <FormControlLabel control={<Switch size="small" checked={camera.autofocus} onChange={(_, autofocus) => set({ autofocus })} />} label="Automatic focus" sx={{ mr: 0 }} />
      <Trouble fault={change.error} />
    </Box>
  );
}
