import { Box, Button, Paper, Slider, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";

import { api, type Shoot } from "../kit/api/client";
import { plural } from "../kit/format";
import { RunButton } from "../kit/RunButton";
import { Empty, Trouble } from "../kit/Trouble";
import { doubtfulFirst } from "./cut.logic";
import { MatchChart } from "./MatchChart";
import { Wall } from "./Wall";

function SetControl({ shoot }: { shoot: Shoot }) {
  const client = useQueryClient();
  const path = { params: { path: { shoot_id: shoot.id } } };
  const { data: chart } = api.useQuery("get", "/api/shoots/{shoot_id}/match-chart", path);
  const stored = shoot.treatment.cut.match ?? null;
  const [moved, setMoved] = useState<number | null>(null);
  const change = api.useMutation("put", "/api/shoots/{shoot_id}/treatment", {
    onSuccess: () => {
      setMoved(null);
      void client.invalidateQueries();
    },
  });
  const keep = (match: number | null) => change.mutate({ ...path, body: { cut: { ...shoot.treatment.cut, material: "auto", match } } });
  const value = moved ?? stored ?? chart?.proposed ?? 50;
  const { counts } = shoot;
  const outdated = counts.with_frame - counts.cut;
  return (
    <Paper sx={{ p: 2, display: "flex", flexDirection: "column", gap: 1, overflow: "auto" }}>
      <Typography variant="h2">Backdrop match for the set</Typography>
      <Typography color="text.secondary">
        How alike the backdrop a pixel must be to count as backdrop. {stored === null ? "Now every shot stands at its own proposed value." : `Now ${stored} for every shot without a value of its own.`}
      </Typography>
      {chart && chart.shots > 0 && <MatchChart chart={chart} value={moved ?? stored} />}
      <Box sx={{ px: "calc(8px + 4.3%)" }}>
        <Slider aria-label="Backdrop match for the set" min={0} max={100} value={value} onChange={(_, v) => setMoved(v as number)} valueLabelDisplay="auto" />
        <Box sx={{ display: "flex", justifyContent: "space-between", fontSize: 12, color: "text.secondary", mt: -1 }}>
          <span>0 loose</span>
          <span>100 strict</span>
        </Box>
      </Box>
      <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
        <Button variant="contained" disabled={moved === null || change.isPending} onClick={() => keep(moved)}>
          Keep {Math.round(value)} for the set
        </Button>
        <Button disabled={(stored === null && moved === null) || change.isPending} onClick={() => (stored === null ? setMoved(null) : keep(null))}>
          Each its proposed value
        </Button>
      </Box>
      <Trouble fault={change.error} />
      <Box sx={{ borderTop: 1, borderColor: "divider", mt: 1, pt: 1.5 }}>
        <Typography sx={{ mb: 1 }}>
          {plural(counts.clean, "shot")} clean, {counts.look_again} to look at again, {counts.redo} to redo
          {outdated > 0 && `; ${outdated} not cut with these settings yet`}.
        </Typography>
        <RunButton shoot={shoot} label={outdated > 0 && counts.cut > 0 ? "Run on all" : "Cut and finish all"} />
      </Box>
    </Paper>
  );
}

/** Tune for the set: the control with its chart beside the wall of mattes, the doubtful ones first. */
export function SetView({ shoot }: { shoot: Shoot }) {
  const { data: shots, error } = api.useQuery("get", "/api/shoots/{shoot_id}/shots", { params: { path: { shoot_id: shoot.id } } });
  const ordered = useMemo(() => doubtfulFirst(shots ?? []), [shots]);
  if (shots && ordered.length === 0) return <Empty title="Nothing to cut yet">Bring in frames at the station Shoot; they find their shots by name.</Empty>;
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "340px minmax(0, 1fr)", gap: 2, p: 2 }}>
      <SetControl shoot={shoot} />
      <Box sx={{ minHeight: 0, display: "flex", flexDirection: "column" }}>
        <Trouble fault={error} />
        <Wall shoot={shoot} shots={ordered} />
      </Box>
    </Box>
  );
}
