import { Box, Button, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, type Shoot, type Spec } from "../kit/api/client";
import { kilobytes, plural } from "../kit/format";
import { RunButton } from "../kit/RunButton";
import { Empty, Trouble } from "../kit/Trouble";
import { canBeSent, chosenAtFirst, specLine } from "./deliver.logic";
import { Deliveries } from "./Deliveries";
import { SheetTable } from "./SheetTable";

/** Every picture against every rule of one outlet, what it will be called and weigh; then send. */
export function OutletSheet({ shoot, spec }: { shoot: Shoot; spec: Spec }) {
  const client = useQueryClient();
  const path = { params: { path: { shoot_id: shoot.id, outlet: spec.name } } };
  const { data: sheet, error } = api.useQuery("get", "/api/shoots/{shoot_id}/sheets/{outlet}", path);
  const [picked, setPicked] = useState<number[] | null>(null);
  const send = api.useMutation("post", "/api/shoots/{shoot_id}/deliveries/{outlet}", { onSuccess: () => void client.invalidateQueries() });
  if (!sheet) return <Box sx={{ p: 2 }}><Trouble fault={error} /></Box>;
  if (sheet.rows.length === 0) return <Empty title="No shots yet">Plan the shoot first.</Empty>;
  const able = new Set(sheet.rows.filter(canBeSent).map((row) => row.shot_id));
  const chosen = (picked ?? chosenAtFirst(sheet.rows)).filter((id) => able.has(id));
  const weight = sheet.rows.filter((row) => chosen.includes(row.shot_id)).reduce((sum, row) => sum + (row.bytes ?? 0), 0);
  const behind = sheet.rows.filter((row) => row.state === "outdated" || row.state === "missing").length;
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "minmax(0, 1fr) 300px", gap: 2, p: 2 }}>
      <Box sx={{ minHeight: 0, display: "flex", flexDirection: "column" }}>
        <Box sx={{ display: "flex", alignItems: "center", gap: 2, mb: 1 }}>
          <Typography>{specLine(spec)}</Typography>
          <Box sx={{ flex: 1 }} />
          {behind > 0 && <RunButton shoot={shoot} label={`Finish ${plural(behind, "shot")}`} />}
        </Box>
        <SheetTable sheet={sheet} chosen={chosen} onChoose={setPicked} />
      </Box>
      <Box sx={{ overflow: "auto" }}>
        <Typography variant="h2">Send to {spec.title}</Typography>
        <Typography sx={{ my: 1 }}>
          {plural(chosen.length, "picture")}, {kilobytes(weight)}, with a report. They are laid in a folder on this machine and can be taken from here as one archive.
        </Typography>
        <Button variant="contained" disabled={chosen.length === 0 || send.isPending} onClick={() => send.mutate({ ...path, body: { shot_ids: chosen } })}>
          Send {plural(chosen.length, "picture")}
        </Button>
        <Trouble fault={send.error} />
        <Deliveries shootId={shoot.id} outlet={spec.name} />
      </Box>
    </Box>
  );
}
