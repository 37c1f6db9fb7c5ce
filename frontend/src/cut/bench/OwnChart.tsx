import { Box } from "@mui/material";

import type { components } from "../../kit/api/schema";

const HEIGHT = 56;
/** At this part of the product's area a column is full. */
const FULL = 0.08;

/** For one shot: product lost hangs from the top, leftover backdrop stands at the bottom. */
export function OwnChart({ trials, value }: { trials: components["schemas"]["TrialPublic"][]; value: number }) {
  const tall = (part: number) => Math.min(1, Math.sqrt(part / FULL)) * (HEIGHT / 2 - 2);
  return (
    <Box aria-hidden sx={{ position: "relative", overflow: "hidden", height: HEIGHT, bgcolor: "#fff", border: 1, borderColor: "divider", mx: "8px", mt: 0.5 }}>
      {trials.map((trial) => (
        <Box key={trial.match} sx={{ position: "absolute", left: `${0.5 + 0.91 * trial.match}%`, width: "8%", top: 0, bottom: 0 }}>
          <Box sx={{ position: "absolute", top: 0, left: 0, right: 0, height: tall(trial.lost), bgcolor: "#4c4c4c" }} />
          <Box sx={{ position: "absolute", bottom: 0, left: 0, right: 0, height: tall(trial.leftover), background: "repeating-linear-gradient(45deg,#8a8a8a 0 2px,#e6e6e6 2px 5px)" }} />
        </Box>
      ))}
      <Box sx={{ position: "absolute", left: `${4.5 + 0.91 * value}%`, top: -2, bottom: -2, width: 2, ml: "-1px", bgcolor: "primary.main" }} />
    </Box>
  );
}
