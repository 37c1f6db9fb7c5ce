import { Alert, Box, Button, Paper, TextField, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../../kit/api/client";
import type { components } from "../../kit/api/schema";
import { plural, sentence } from "../../kit/format";
import { Trouble } from "../../kit/Trouble";

type Watch = components["schemas"]["WatchPublic"];

/** Which folder is watched, and what became of each file in it. */
export function WatchPanel({ shootId, watch }: { shootId: number; watch: Watch }) {
  const client = useQueryClient();
  const [path, setPath] = useState("");
  const change = api.useMutation("put", "/api/shoots/{shoot_id}/watch", { onSuccess: () => void client.invalidateQueries() });
  const set = (folder: string | null) => change.mutate({ params: { path: { shoot_id: shootId } }, body: { folder } });
  return (
    <Paper sx={{ p: 1.5 }}>
      <Typography variant="h2">Watched folder</Typography>
      {watch.folder ? (
        <>
          <Typography sx={{ overflowWrap: "anywhere", my: 0.5 }}>{watch.folder}</Typography>
          {watch.trouble ? (
            <Alert severity="warning" sx={{ py: 0 }}>
              {sentence(watch.trouble)}
            </Alert>
          ) : (
            <Typography sx={{ fontSize: 12, color: "text.secondary" }}>Whatever is written there comes in by itself, once, when the file is complete. The folder is only read.</Typography>
          )}
          <Button onClick={() => set(null)} sx={{ mt: 0.5 }}>
            Stop watching
          </Button>
        </>
      ) : (
        <Box
          component="form"
          onSubmit={(event) => {
            event.preventDefault();
            set(path.trim());
          }}
        >
          <Typography sx={{ my: 0.5 }}>Name the folder that your tethering program or card reader writes to, on the machine that this program runs on. What lies in it now comes in as well.</Typography>
          <TextField fullWidth value={path} onChange={(event) => setPath(event.target.value)} placeholder="Full path of the folder" slotProps={{ htmlInput: { "aria-label": "Folder to watch" } }} sx={{ bgcolor: "#fff" }} />
          <Button type="submit" variant="contained" disabled={!path.trim() || change.isPending} sx={{ mt: 1 }}>
            Watch it
          </Button>
        </Box>
      )}
      <Trouble fault={change.error} />
      {watch.taken > 0 && (
        <>
          <Typography sx={{ mt: 1.5, fontWeight: 650 }} role="status">
            {plural(watch.taken, "file has", "files have")} come in
          </Typography>
          <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0, fontSize: 12 }}>
            {watch.latest.map((file) => (
              <Box component="li" key={`${file.name} ${file.taken_at}`} sx={{ py: 0.25, color: file.problem ? "error.main" : "text.primary", overflowWrap: "anywhere" }}>
                {file.problem ? sentence(file.problem) : `${file.name}: ${file.shot ?? "waits for its shot"}`}
              </Box>
            ))}
          </Box>
        </>
      )}
    </Paper>
  );
}
