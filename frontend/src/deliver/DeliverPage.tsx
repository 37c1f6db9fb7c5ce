import { Box, Tab, Tabs } from "@mui/material";
import { useNavigate, useParams } from "react-router";

import { api, type Shoot } from "../kit/api/client";
import { ShootFrame } from "../kit/ShootFrame";
import { OutletSheet } from "./OutletSheet";

function Deliver({ shoot }: { shoot: Shoot }) {
  const go = useNavigate();
  const { data: outlets = [] } = api.useQuery("get", "/api/outlets");
  const wanted = useParams().outlet;
  const outlet = outlets.find((spec) => spec.name === wanted) ?? outlets[0];
  if (!outlet) return null;
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column" }}>
      <Tabs value={outlet.name} onChange={(_, name: string) => void go(`/shoots/${shoot.id}/deliver/${name}`)} sx={{ px: 2, borderBottom: 1, borderColor: "divider", minHeight: 40 }}>
        {outlets.map((spec) => (
          <Tab key={spec.name} value={spec.name} label={`${spec.title} · ${shoot.counts.ready[spec.name] ?? 0} ready`} sx={{ minHeight: 40 }} />
        ))}
      </Tabs>
      <OutletSheet key={outlet.name} shoot={shoot} spec={outlet} />
    </Box>
  );
}

export function DeliverPage() {
  return <ShootFrame here="deliver">{(shoot) => <Deliver shoot={shoot} />}</ShootFrame>;
}
