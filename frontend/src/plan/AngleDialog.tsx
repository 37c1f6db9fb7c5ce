import { Autocomplete, Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, type Shot } from "../kit/api/client";
import { Trouble } from "../kit/Trouble";

type Kind = "angle" | "spin";

/** One more view of the products: an angle, or a spin with a position for each step of the turntable. */
export function AngleDialog({ shootId, shots, onClose }: { shootId: number; shots: Shot[]; onClose: () => void }) {
  const client = useQueryClient();
  const [kind, setKind] = useState<Kind>("angle");
  const [name, setName] = useState("");
  const [positions, setPositions] = useState("24");
  const [codes, setCodes] = useState<string[]>([]);
  const done = {
    onSuccess: () => {
      void client.invalidateQueries();
      onClose();
    },
  };
  const addAngle = api.useMutation("post", "/api/shoots/{shoot_id}/angles", done);
  const addSpin = api.useMutation("post", "/api/shoots/{shoot_id}/spins", done);
  const path = { params: { path: { shoot_id: shootId } } };
  const add = () => {
    if (kind === "angle") addAngle.mutate({ ...path, body: { name: name.trim() } });
    else addSpin.mutate({ ...path, body: { name: name.trim(), positions: Number(positions), codes } });
  };
  const bad = !name.trim() || (kind === "spin" && !(Number(positions) >= 2 && Number(positions) <= 360));
  return (
    <Dialog open onClose={onClose}>
      <DialogTitle>Add a view</DialogTitle>
      <DialogContent sx={{ display: "flex", flexDirection: "column", gap: 1.5, minWidth: 420 }}>
        <ToggleButtonGroup exclusive fullWidth size="small" value={kind} onChange={(_, next: Kind | null) => next && setKind(next)} aria-label="Kind of view" sx={{ "& .MuiToggleButton-root": { textTransform: "none" } }}>
          <ToggleButton value="angle">An angle</ToggleButton>
          <ToggleButton value="spin">A spin</ToggleButton>
        </ToggleButtonGroup>
        <TextField label={kind === "angle" ? "Name of the angle" : "Name of the spin"} placeholder={kind === "angle" ? "side" : "spin"} value={name} onChange={(e) => setName(e.target.value)} autoFocus />
        {kind === "spin" && (
          <>
            <TextField label="Positions in a full turn" type="number" value={positions} onChange={(e) => setPositions(e.target.value)} slotProps={{ htmlInput: { min: 2, max: 360 } }} />
            <Autocomplete multiple size="small" options={[...new Set(shots.map((shot) => shot.code))]} value={codes} onChange={(_, next) => setCodes(next)} renderInput={(params) => <TextField {...params} label="Products" placeholder={codes.length ? "" : "all of them"} />} />
            <Typography sx={{ fontSize: 12 }} color="text.secondary">
              Each position is a shot of its own; the turntable steps through them at the table.
            </Typography>
          </>
        )}
        <Trouble fault={addAngle.error ?? addSpin.error} />
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" disabled={bad || addAngle.isPending || addSpin.isPending} onClick={add}>
          Add
        </Button>
      </DialogActions>
    </Dialog>
  );
}
