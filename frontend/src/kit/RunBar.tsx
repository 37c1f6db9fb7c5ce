import { Box, Button, LinearProgress, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";

import { api, type Run } from "./api/client";
import { duration, plural } from "./format";
import { Trouble } from "./Trouble";

/** The run over the shoot: count, rate, time left, stop and resume. */
export function RunBar({ run }: { run: Run }) {
  const client = useQueryClient();
  const renew = { onSuccess: () => void client.invalidateQueries() };
  const stop = api.useMutation("post", "/api/runs/{run_id}/stop", renew);
  const resume = api.useMutation("post", "/api/runs/{run_id}/resume", renew);
  const path = { params: { path: { run_id: run.id } } };
  const finished = run.done + run.failed;
  if (run.state === "done") return null;
  return (
    <Box role="status" aria-label="Run" sx={{ px: 2, py: 0.75, bgcolor: "#e9e9e9", borderBottom: 1, borderColor: "divider" }}>
      <Box sx={{ display: "flex", alignItems: "center", gap: 2 }}>
        <Typography sx={{ fontWeight: 650, minWidth: 190 }}>
          {run.state === "running" ? "Cutting and finishing" : "Stopped"}: {finished} of {run.total}
        </Typography>
        <LinearProgress variant="determinate" value={(100 * finished) / Math.max(1, run.total)} sx={{ flex: 1, height: 6 }} aria-label="Progress" />
        <Typography sx={{ color: "text.secondary", minWidth: 210, textAlign: "right" }}>
          {run.state === "running" && run.rate_per_minute ? `${run.rate_per_minute.toFixed(0)} a minute, ${duration(run.left_s ?? 0)} left` : ""}
          {run.failed ? ` ${plural(run.failed, "shot")} could not be done` : ""}
        </Typography>
        {run.state === "running" ? (
          <Button variant="outlined" onClick={() => stop.mutate(path)} disabled={stop.isPending}>
            Stop
          </Button>
        ) : (
          <Button variant="contained" onClick={() => resume.mutate(path)} disabled={resume.isPending}>
            Resume
          </Button>
        )}
      </Box>
      <Trouble fault={stop.error ?? resume.error} />
    </Box>
  );
}
