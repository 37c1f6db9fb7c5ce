import { Box, Link, Typography } from "@mui/material";

import { api } from "../kit/api/client";
import { plural } from "../kit/format";

/** What was sent to this outlet, the newest first, each as it was sent. */
export function Deliveries({ shootId, outlet }: { shootId: number; outlet: string }) {
  const { data = [] } = api.useQuery("get", "/api/shoots/{shoot_id}/deliveries", { params: { path: { shoot_id: shootId } } });
  const mine = data.filter((delivery) => delivery.outlet === outlet);
  if (mine.length === 0) return null;
  return (
    <Box sx={{ mt: 3 }}>
      <Typography variant="h2">Sent</Typography>
      {mine.map((delivery) => (
        <Box key={delivery.id} sx={{ borderTop: 1, borderColor: "divider", py: 1, mt: 0.5 }}>
          <Typography sx={{ fontWeight: 600 }}>
            {plural(delivery.files.length, "picture")}, {new Date(delivery.created_at).toLocaleString([], { dateStyle: "medium", timeStyle: "short" })}
          </Typography>
          <Typography sx={{ fontSize: 12, color: "text.secondary", wordBreak: "break-all" }}>{delivery.folder}</Typography>
          <Box sx={{ display: "flex", gap: 2, mt: 0.25 }}>
            <Link href={`/api/deliveries/${delivery.id}/zip`}>As an archive (ZIP)</Link>
            <Link href={`/api/deliveries/${delivery.id}/report`}>Report (CSV)</Link>
          </Box>
        </Box>
      ))}
    </Box>
  );
}
