import { Box, Button, LinearProgress, Paper, Typography } from "@mui/material";

import { plural, sentence } from "../kit/format";
import type { Dropped } from "./useDrop";

/** What became of each dropped file; refused ones first, each with its reason. */
export function DropList({ files, onClear }: { files: Dropped[]; onClear: () => void }) {
  if (files.length === 0) return null;
  const refused = files.filter((file) => file.state === "refused");
  const settled = files.filter((file) => file.state === "in").length + refused.length;
  return (
    <Paper sx={{ p: 1.5, mb: 2 }}>
      <Box sx={{ display: "flex", alignItems: "center", gap: 2 }}>
        <Typography variant="h2" role="status">
          {settled < files.length ? `Bringing in ${settled} of ${files.length}` : `${plural(settled - refused.length, "file")} brought in`}
          {refused.length > 0 && `, ${refused.length} refused`}
        </Typography>
        <Box sx={{ flex: 1 }} />
        {settled === files.length && <Button onClick={onClear}>Clear this list</Button>}
      </Box>
      {settled < files.length && <LinearProgress variant="determinate" value={(100 * settled) / files.length} sx={{ my: 1 }} />}
      <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0, mt: 1, maxHeight: 260, overflow: "auto" }}>
        {[...refused, ...files.filter((file) => file.state !== "refused")].map((file) => (
          <Box component="li" key={file.name} sx={{ display: "flex", gap: 1.5, py: 0.25, color: file.state === "refused" ? "error.main" : "text.primary" }}>
            {file.state === "refused" ? (
              <span>{sentence(file.said)}</span>
            ) : (
              <>
                <Box sx={{ width: 260, overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" }}>{file.name}</Box>
                <Box sx={{ color: "text.secondary" }}>{file.state === "in" ? file.said : file.state === "sending" ? "on its way" : "waits"}</Box>
              </>
            )}
          </Box>
        ))}
      </Box>
    </Paper>
  );
}
