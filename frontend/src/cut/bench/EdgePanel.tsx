import { Box, Button, Slider, Typography } from "@mui/material";

import type { BenchWork } from "./useBench";

/** In or out by tenths of a pixel, smoother, harder. */
export function EdgePanel({ bench }: { bench: BenchWork }) {
  const edge = bench.detail?.treatment.edge;
  if (!edge) return null;
  const rows = [
    { name: "shift_px", word: "In or out", min: -3, max: 3, step: 0.1, said: edge.shift_px === null || edge.shift_px === undefined ? "as it comes (half a pixel in where a silhouette alone told the edge)" : `${edge.shift_px > 0 ? "+" : ""}${edge.shift_px.toFixed(1)} px` },
    { name: "smooth", word: "Smooth", min: 0, max: 1, step: 0.05, said: `${Math.round(edge.smooth * 100)} %` },
    { name: "harden", word: "Harden", min: 0, max: 1, step: 0.05, said: `${Math.round(edge.harden * 100)} %` },
  ] as const;
  return (
    <>
      {rows.map(({ name, word, min, max, step, said }) => (
        <Box key={name}>
          <Box sx={{ display: "flex", justifyContent: "space-between", gap: 1 }}>
            <Typography sx={{ fontWeight: 600 }}>{word}</Typography>
            <Typography sx={{ fontSize: 12.5, color: "text.secondary", textAlign: "right" }}>{said}</Typography>
          </Box>
          <Slider key={String(edge[name])} aria-label={word} min={min} max={max} step={step} defaultValue={edge[name] ?? 0} valueLabelDisplay="auto" marks={min < 0 ? [{ value: 0 }] : false} onChangeCommitted={(_, v) => bench.set(`edge: ${word.toLowerCase()}`, { edge: { ...edge, [name]: v as number } })} />
        </Box>
      ))}
      <Box>
        <Button disabled={bench.busy || !bench.detail?.shot.own_sections.includes("edge")} onClick={() => bench.set("edge as it comes", { edge: null })}>
          As it comes
        </Button>
      </Box>
      <Typography sx={{ fontSize: 12, color: "text.secondary" }}>Look at 200 % or closer on a loud colour: a light or dark fringe shows there first.</Typography>
    </>
  );
}
