import { Alert, Box, Link, Typography } from "@mui/material";
import type { ReactNode } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { Link as RouterLink, useNavigate, useParams } from "react-router";

import { api, isAway, type Shoot } from "./api/client";
import { useShootEvents } from "./events";
import { keys } from "./keys";
import { RunBar } from "./RunBar";
import { StationLine } from "./StationLine";
import type { Station } from "./stations";
import { SurroundSlider } from "./surround";
import { Trouble } from "./Trouble";

export function useShootId(): number {
  return Number(useParams().shootId);
}

function useStationKeys(shootId: number) {
  const go = useNavigate();
  useHotkeys(keys.toPlan.keys, () => void go(`/shoots/${shootId}/plan`));
  useHotkeys(keys.toShoot.keys, () => void go(`/shoots/${shootId}/shoot`));
  useHotkeys(keys.toCut.keys, () => void go(`/shoots/${shootId}/cut`));
  useHotkeys(keys.toFinish.keys, () => void go(`/shoots/${shootId}/finish`));
  useHotkeys(keys.toDeliver.keys, () => void go(`/shoots/${shootId}/deliver`));
}

/** What stands around every station: the shoot's name, the line, the run, and whether the program is reachable. */
export function ShootFrame({ here, children }: { here: Station; children: (shoot: Shoot) => ReactNode }) {
  const shootId = useShootId();
  const reachable = useShootEvents(shootId);
  useStationKeys(shootId);
  const { data: shoot, error, refetch } = api.useQuery(
    "get",
    "/api/shoots/{shoot_id}",
    { params: { path: { shoot_id: shootId } } },
    { refetchInterval: (query) => (query.state.data?.run?.state === "running" || query.state.error ? 2000 : false) },
  );
  const away = !reachable || isAway(error);
  return (
    <Box sx={{ height: "100vh", display: "flex", flexDirection: "column", overflow: "hidden" }}>
      <Box component="header" sx={{ display: "flex", alignItems: "center", gap: 3, px: 2, bgcolor: "background.paper", borderBottom: 1, borderColor: "divider", flexShrink: 0 }}>
        <Box sx={{ width: 210, flexShrink: 0, overflow: "hidden" }}>
          <Link component={RouterLink} to="/" underline="hover" sx={{ fontSize: 11.5, color: "text.secondary" }}>
            True Backdrop
          </Link>
          <Typography noWrap sx={{ fontWeight: 650, fontSize: 14 }} title={shoot?.name}>
            {shoot?.name ?? " "}
          </Typography>
        </Box>
        {shoot && <StationLine shootId={shootId} counts={shoot.counts} here={here} />}
        <Box sx={{ ml: "auto" }}>
          <SurroundSlider />
        </Box>
      </Box>
      {away && (
        <Alert severity="warning" variant="filled" sx={{ borderRadius: 0, bgcolor: "#5d4300" }} role="alert">
          The program or its database does not answer at the moment. Nothing is lost; this page goes on by itself.
        </Alert>
      )}
      {shoot?.run && <RunBar run={shoot.run} />}
      <Box component="main" sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column" }}>
        {shoot ? children(shoot) : !away && <Box sx={{ p: 3 }}>{error && <Trouble fault={error} onAgain={() => void refetch()} />}</Box>}
      </Box>
    </Box>
  );
}
