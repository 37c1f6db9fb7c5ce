import { Box, Button, Tab, Tabs } from "@mui/material";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";

import { api, type Shoot } from "../kit/api/client";
import { ShootFrame } from "../kit/ShootFrame";
import { OutletDialog } from "./OutletDialog";
import { OutletSheet } from "./OutletSheet";
import { RemoveOutlet } from "./RemoveOutlet";

type Asked = "new" | "copy" | "change" | "remove";

function Deliver({ shoot }: { shoot: Shoot }) {
  const go = useNavigate();
  const { data: outlets = [] } = api.useQuery("get", "/api/outlets");
  const wanted = useParams().outlet;
  const [asked, setAsked] = useState<Asked | null>(null);
  const outlet = outlets.find((spec) => spec.name === wanted) ?? outlets[0];
  if (!outlet) return null;
  const show = (name: string) => {
    setAsked(null);
    void go(`/shoots/${shoot.id}/deliver/${name}`);
  };
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column" }}>
      <Box sx={{ display: "flex", alignItems: "center", px: 2, borderBottom: 1, borderColor: "divider" }}>
        <Tabs value={outlet.name} onChange={(_, name: string) => show(name)} variant="scrollable" scrollButtons="auto" sx={{ minHeight: 40 }}>
          {outlets.map((spec) => (
            <Tab key={spec.name} value={spec.name} label={`${spec.title} · ${shoot.counts.ready[spec.name] ?? 0} ready`} sx={{ minHeight: 40 }} />
          ))}
        </Tabs>
        <Box sx={{ flex: 1, minWidth: 16 }} />
        <Box sx={{ display: "flex", flexShrink: 0 }}>
          {!outlet.shipped && <Button onClick={() => setAsked("change")}>Change its rules</Button>}
          {!outlet.shipped && <Button onClick={() => setAsked("remove")}>Remove</Button>}
          <Button onClick={() => setAsked("copy")}>Copy as a new outlet</Button>
          <Button onClick={() => setAsked("new")}>New outlet</Button>
        </Box>
      </Box>
      <OutletSheet key={outlet.name} shoot={shoot} spec={outlet} />
      {asked === "new" && <OutletDialog onClose={() => setAsked(null)} onSaved={show} />}
      {(asked === "copy" || asked === "change") && <OutletDialog from={outlet} change={asked === "change"} onClose={() => setAsked(null)} onSaved={show} />}
      {asked === "remove" && <RemoveOutlet outlet={outlet} onClose={() => setAsked(null)} onRemoved={() => show("")} />}
    </Box>
  );
}

export function DeliverPage() {
  return <ShootFrame here="deliver">{(shoot) => <Deliver shoot={shoot} />}</ShootFrame>;
}
