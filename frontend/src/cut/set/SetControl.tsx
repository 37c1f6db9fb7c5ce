import { Box, Button, FormControl, InputLabel, MenuItem, Paper, Select, Slider, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, type Material, type Shoot, type Tuning } from "../../kit/api/client";
import { plural } from "../../kit/format";
import { RunButton } from "../../kit/RunButton";
import { Trouble } from "../../kit/Trouble";
import { MatchChart } from "./MatchChart";

export interface Scope {
  angle?: string;
  material?: Material;
}

const materials: Record<Material, string> = { auto: "not named", solid: "solid", strands: "strands", clear: "clear", pale: "pale" };

interface Props {
  shoot: Shoot;
  tuning: Tuning | null;
  scope: Scope;
  onScope: (scope: Scope) => void;
  moved: number | null;
  onMove: (value: number | null) => void;
  pointed: number | null;
  onPoint: (match: number | null) => void;
  angles: string[];
  used: Material[];
}

/** What the value holds for: everything, one angle, or one kind of material. */
function ScopeChoice({ scope, onScope, angles, used }: Pick<Props, "scope" | "onScope" | "angles" | "used">) {
  const value = scope.angle ? `angle:${scope.angle}` : scope.material ? `material:${scope.material}` : "set";
  const choose = (next: string) => {
    const [kind, name] = next.split(/:(.*)/s);
    onScope(kind === "angle" ? { angle: name } : kind === "material" ? { material: name as Material } : {});
  };
  return (
    <FormControl size="small" fullWidth>
      <InputLabel id="scope">For</InputLabel>
      <Select labelId="scope" label="For" value={value} onChange={(event) => choose(event.target.value)}>
        <MenuItem value="set">the whole set</MenuItem>
        {angles.length > 1 && angles.map((angle) => <MenuItem key={angle} value={`angle:${angle}`}>{`angle ${angle}`}</MenuItem>)}
        {used.length > 1 && used.map((name) => <MenuItem key={name} value={`material:${name}`}>{`material ${materials[name]}`}</MenuItem>)}
      </Select>
    </FormControl>
  );
}

/** The one control of the set with its chart. */
export function SetControl({ shoot, tuning, scope, onScope, moved, onMove, pointed, onPoint, angles, used }: Props) {
  const client = useQueryClient();
  const path = { params: { path: { shoot_id: shoot.id } } };
  const whole = !scope.angle && !scope.material;
  const stored = whole ? (shoot.treatment.cut.match ?? null) : null;
  const [batch, setBatch] = useState<{ id: string; said: string } | null>(null);
  const again = () => {
    onMove(null);
    void client.invalidateQueries();
  };
  const change = api.useMutation("put", "/api/shoots/{shoot_id}/treatment", { onSuccess: again });
  const many = api.useMutation("post", "/api/shoots/{shoot_id}/match", {
    onSuccess: (done) => {
      setBatch({ id: done.batch, said: `${plural(done.shots, "shot")} changed` });
      again();
    },
  });
  const back = api.useMutation("post", "/api/shoots/{shoot_id}/take-batch-back", { onSuccess: () => (setBatch(null), again()) });
  const keep = (match: number | null) => {
    const value = match === null ? null : Math.round(match);
    if (whole) change.mutate({ ...path, body: { said: value === null ? "each its proposed value" : `backdrop match ${value}`, cut: { ...shoot.treatment.cut, match: value } } });
    else many.mutate({ ...path, body: { match: value, ...scope } });
  };
  const busy = change.isPending || many.isPending;
  const value = moved ?? stored ?? tuning?.proposed ?? 50;
  const { counts } = shoot;
  const outdated = counts.with_frame - counts.cut;
  return (
    <Paper sx={{ p: 2, display: "flex", flexDirection: "column", gap: 1.25, overflow: "auto" }}>
      <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "baseline" }}>
        <Typography variant="h2">Backdrop match</Typography>
        <Typography sx={{ fontSize: 22, fontWeight: 650 }}>{Math.round(value)}</Typography>
      </Box>
      <ScopeChoice scope={scope} onScope={onScope} angles={angles} used={used} />
      <Typography color="text.secondary" sx={{ fontSize: 12.5 }}>
        How alike the backdrop a pixel must be to count as backdrop.{" "}
        {whole && (stored === null ? "Now every shot stands at its own proposed value." : `Now ${stored} for every shot without a value of its own.`)}
      </Typography>
      {tuning && tuning.total > 0 && <MatchChart tuning={tuning} value={moved ?? stored} pointed={pointed} onPoint={onPoint} onChoose={onMove} />}
      <Box sx={{ px: "8px" }}>
        <Slider aria-label="Backdrop match for the set" min={0} max={100} value={value} onChange={(_, v) => onMove(v as number)} />
        <Box sx={{ display: "flex", justifyContent: "space-between", fontSize: 12, color: "text.secondary", mt: -1 }}>
          <span>0 loose</span>
          <span>100 strict</span>
        </Box>
      </Box>
      <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
        <Button variant="contained" disabled={moved === null || busy} onClick={() => keep(moved)}>
          Keep {Math.round(value)} {whole ? "for the set" : "for these"}
        </Button>
        {moved !== null && <Button onClick={() => onMove(null)}>Leave as it was</Button>}
        <Button disabled={busy || (whole && stored === null)} onClick={() => keep(null)}>
          {whole ? "Each its proposed value" : "Follow the set"}
        </Button>
        {batch && (
          <Button disabled={back.isPending} onClick={() => back.mutate({ ...path, body: { batch: batch.id } })}>
            {batch.said}: take back
          </Button>
        )}
      </Box>
      <Trouble fault={change.error ?? many.error ?? back.error} />
      <Box sx={{ borderTop: 1, borderColor: "divider", mt: "auto", pt: 1.5 }}>
        <Typography sx={{ mb: 1 }}>
          {plural(counts.clean, "shot")} clean, {counts.look_again} to look at again, {counts.redo} to redo
          {outdated > 0 && `; ${outdated} not cut with these settings yet`}.
        </Typography>
        <RunButton shoot={shoot} label={outdated > 0 && counts.cut > 0 ? "Run on all" : "Cut and finish all"} />
      </Box>
    </Paper>
  );
}
