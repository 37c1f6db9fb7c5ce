import { Box, Button, Typography } from "@mui/material";

import { keys } from "../../kit/keys";
import type { BenchWork } from "./useBench";

/** Every change of this shot's own settings; any of them can be chosen again. */
export function HistoryPanel({ bench }: { bench: BenchWork }) {
  const { revisions, detail, busy } = bench;
  return (
    <>
      <Box>
        <Button variant="contained" disabled={!detail?.can_undo || busy} onClick={bench.undo}>
          Take the last change back
        </Button>
        <Typography component="span" sx={{ ml: 1, fontSize: 12, color: "text.secondary" }}>
          {keys.undo.label}
        </Typography>
      </Box>
      <Box component="ol" sx={{ m: 0, p: 0, listStyle: "none" }}>
        {revisions.map((revision, k) => (
          <Box component="li" key={revision.id} sx={{ display: "flex", alignItems: "center", gap: 1, borderBottom: 1, borderColor: "divider", minHeight: 34 }}>
            <Typography sx={{ fontSize: 12, color: "text.secondary", width: 62 }}>{new Date(revision.created_at).toLocaleTimeString()}</Typography>
            <Typography sx={{ flex: 1, fontSize: 13 }}>{revision.said || "changed"}</Typography>
            {k === 0 ? (
              <Typography sx={{ fontSize: 12 }}>now</Typography>
            ) : (
              <Button disabled={busy} onClick={() => bench.choose(revision.id)}>
                Choose
              </Button>
            )}
          </Box>
        ))}
        <Box component="li" sx={{ display: "flex", alignItems: "center", gap: 1, minHeight: 34 }}>
          <Typography sx={{ flex: 1, fontSize: 13 }}>The beginning: all as the set has it</Typography>
          <Button disabled={busy || revisions.length === 0} onClick={() => bench.choose(0)}>
            Choose
          </Button>
        </Box>
      </Box>
    </>
  );
}
