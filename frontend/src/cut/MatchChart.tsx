import { Box, Typography } from "@mui/material";

import type { Chart } from "../kit/api/client";

const HEIGHT = 118;

/**
 * For each backdrop match, how many shots would lose product (hanging from the top) and how many would keep
 * leftover backdrop (standing at the bottom). The open channel between them is where to stand.
 */
export function MatchChart({ chart, value }: { chart: Chart; value: number | null }) {
  const most = Math.max(1, chart.shots);
  const tall = (count: number) => (count / most) * (HEIGHT / 2 - 4);
  const here = value ?? chart.proposed;
  return (
    <Box sx={{ mb: 1 }}>
      <Typography sx={{ fontSize: 12, color: "text.secondary" }}>shots that lose product</Typography>
      <Box
        role="img"
        aria-label={`At ${here}: ${chart.columns.map((c) => `match ${c.match}: ${c.lost} lose product, ${c.leftover} keep backdrop`).join("; ")}`}
        sx={{ position: "relative", overflow: "hidden", height: HEIGHT, bgcolor: "#fff", border: 1, borderColor: "divider", mx: "8px" }}
      >
        {chart.columns.map((column) => (
          <Box key={column.match} sx={{ position: "absolute", left: `${0.91 * column.match}%`, width: "9%", top: 0, bottom: 0 }}>
            <Box sx={{ position: "absolute", top: 0, left: 1, right: 1, height: tall(column.lost), bgcolor: "#4c4c4c" }} />
            <Box sx={{ position: "absolute", bottom: 0, left: 1, right: 1, height: tall(column.leftover), background: "repeating-linear-gradient(45deg,#8a8a8a 0 2px,#e6e6e6 2px 5px)" }} />
            <Box sx={{ position: "absolute", top: tall(column.lost), width: "100%", textAlign: "center", fontSize: 11 }}>{column.lost || ""}</Box>
            <Box sx={{ position: "absolute", bottom: tall(column.leftover), width: "100%", textAlign: "center", fontSize: 11 }}>{column.leftover || ""}</Box>
          </Box>
        ))}
        <Box sx={{ position: "absolute", left: `${4.5 + 0.91 * here}%`, top: -3, bottom: -3, width: 2, ml: "-1px", bgcolor: "primary.main" }} />
      </Box>
      <Typography sx={{ fontSize: 12, color: "text.secondary" }}>shots that keep leftover backdrop</Typography>
    </Box>
  );
}
