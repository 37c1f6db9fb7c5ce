import { Box, Button, Slider, Switch, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, type Shoot, type Shot, type Treatment } from "../kit/api/client";
import { Trouble } from "../kit/Trouble";

interface Dial {
  section: "ground" | "frame" | "sharpen";
  field: string;
  word: string;
  min: number;
  max: number;
  step: number;
  show: (value: number) => string;
}

const percent = (value: number) => `${Math.round(value * 100)} %`;
const dials: Dial[] = [
  { section: "frame", field: "coverage", word: "Product fills", min: 0.5, max: 0.98, step: 0.01, show: percent },
  { section: "ground", field: "shadow", word: "Own shadow", min: 0, max: 1, step: 0.05, show: percent },
  { section: "sharpen", field: "amount", word: "Sharpen", min: 0, max: 1.5, step: 0.05, show: percent },
];

function Knob({ dial, value, onKeep }: { dial: Dial; value: number; onKeep: (value: number) => void }) {
  const [moved, setMoved] = useState<number | null>(null);
  return (
    <Box>
      <Box sx={{ display: "flex", justifyContent: "space-between" }}>
        <span>{dial.word}</span>
        <b>{dial.show(moved ?? value)}</b>
      </Box>
      <Slider
        aria-label={dial.word}
        size="small"
        min={dial.min}
        max={dial.max}
        step={dial.step}
        value={moved ?? value}
        onChange={(_, next) => setMoved(next as number)}
        onChangeCommitted={(_, next) => {
          onKeep(next as number);
          setMoved(null);
        }}
      />
    </Box>
  );
}

/** Settings of the finish, for the whole shoot or for this shot alone; every change can be taken back. */
export function Settings({ shoot, shot, treatment, own }: { shoot: Shoot; shot: Shot; treatment: Treatment; own: string[] }) {
  const client = useQueryClient();
  const renew = { onSuccess: () => void client.invalidateQueries() };
  const [alone, setAlone] = useState(own.some((section) => section !== "cut"));
  const forShot = api.useMutation("put", "/api/shots/{shot_id}/treatment", renew);
  const forShoot = api.useMutation("put", "/api/shoots/{shoot_id}/treatment", renew);
  const back = api.useMutation("post", "/api/shoots/{shoot_id}/take-back", renew);
  const { data: revisions = [] } = api.useQuery("get", "/api/shoots/{shoot_id}/revisions", { params: { path: { shoot_id: shoot.id } } });
  const keep = (dial: Dial, value: number) => {
    const body = { [dial.section]: { ...(treatment[dial.section] as object), [dial.field]: value } };
    if (alone) forShot.mutate({ params: { path: { shot_id: shot.id } }, body });
    else forShoot.mutate({ params: { path: { shoot_id: shoot.id } }, body });
  };
  const follow = () => forShot.mutate({ params: { path: { shot_id: shot.id } }, body: { ground: null, frame: null, sharpen: null } });
  return (
    <Box>
      <Typography variant="h2" sx={{ mb: 0.5 }}>
        Settings
      </Typography>
      <Box component="label" sx={{ display: "flex", alignItems: "center", ml: -1, mb: 0.5 }}>
        <Switch size="small" checked={alone} onChange={(_, on) => setAlone(on)} sx={{ mr: 0.5 }} />
        For this shot alone
      </Box>
      {dials.map((dial) => (
        <Knob key={dial.field} dial={dial} value={(treatment[dial.section] as unknown as Record<string, number>)[dial.field] ?? 0} onKeep={(value) => keep(dial, value)} />
      ))}
      <Typography sx={{ fontSize: 12, color: "text.secondary" }}>An outlet that rules coverage or wants no shadow has the last word.</Typography>
      {own.some((section) => section !== "cut") && <Button onClick={follow}>Follow the set again</Button>}
      <Button disabled={revisions.length === 0 || back.isPending} onClick={() => back.mutate({ params: { path: { shoot_id: shoot.id } }, body: { revision: revisions[1]?.id ?? 0 } })}>
        Take the set's last change back
      </Button>
      <Trouble fault={forShot.error ?? forShoot.error ?? back.error} />
    </Box>
  );
}
