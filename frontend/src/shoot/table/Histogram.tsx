import { Box, Typography } from "@mui/material";

import { type LiveLine, useWord } from "./useLive";

const WIDTH = 128;
const HEIGHT = 40;

function line(bins: number[]): string {
  return bins.map((bin, i) => `${i === 0 ? "M" : "L"}${((i / (bins.length - 1)) * WIDTH).toFixed(1)} ${(HEIGHT - Math.sqrt(bin) * (HEIGHT - 2)).toFixed(1)}`).join("");
}

/** Tones of the live view, and which channels are clipped. */
export function Histogram({ live }: { live: LiveLine }) {
  const exposure = useWord(live, (word) => word.reading?.exposure);
  const clipped = ["Red", "Green", "Blue"].filter((_, i) => (exposure?.clipped[i] ?? 0) > 0.5);
  return (
    <Box>
      <Box sx={{ bgcolor: "#fff", border: 1, borderColor: "divider" }}>
        <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} width="100%" height="34" preserveAspectRatio="none" role="img" aria-label="Tones of the live view">
          {exposure && (
            <>
              <path d={line(exposure.red)} fill="none" stroke="#7a7a7a" strokeDasharray="1 2" vectorEffect="non-scaling-stroke" />
              <path d={line(exposure.green)} fill="none" stroke="#1c1c1c" vectorEffect="non-scaling-stroke" />
              <path d={line(exposure.blue)} fill="none" stroke="#7a7a7a" strokeDasharray="5 2" vectorEffect="non-scaling-stroke" />
            </>
          )}
        </svg>
      </Box>
      <Typography sx={{ fontSize: 11.5, color: clipped.length ? "error.main" : "text.secondary", fontWeight: clipped.length ? 700 : 400 }}>
        {clipped.length ? `${clipped.join(", ")} clipped: ${exposure?.clipped.map((part) => `${part} %`).join(", ")}` : "No channel is clipped"}
      </Typography>
    </Box>
  );
}
