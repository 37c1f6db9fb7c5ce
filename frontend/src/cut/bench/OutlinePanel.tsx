import { Box, Button, Checkbox, FormControlLabel, MenuItem, Paper, Select, Typography } from "@mui/material";

import type { DrawnShape } from "../../kit/api/client";
import { anchored, type FoundBox } from "./corners.logic";
import type { BenchWork } from "./useBench";

interface Props {
  bench: BenchWork;
  found: FoundBox | null;
  drawing: boolean;
  corners: number;
  onDraw: (on: boolean) => void;
  onClose: () => void;
}

function One({ shape, number, found, onChange, onRemove }: { shape: DrawnShape; number: number; found: FoundBox | null; onChange: (next: DrawnShape) => void; onRemove: () => void }) {
  const check = (name: "curved" | "locked", word: string) => (
    <FormControlLabel control={<Checkbox size="small" checked={shape[name]} onChange={(_, on) => onChange({ ...shape, [name]: on })} sx={{ py: 0.25 }} />} label={word} slotProps={{ typography: { sx: { fontSize: 12.5 } } }} />
  );
  return (
    <Paper sx={{ p: 1, display: "flex", flexDirection: "column", gap: 0.5 }}>
      <Box sx={{ display: "flex", alignItems: "center", gap: 1 }}>
        <Typography sx={{ fontWeight: 600, flex: 1 }}>Outline {number}</Typography>
        <Button disabled={shape.locked} onClick={onRemove}>
          Remove
        </Button>
      </Box>
      <Select size="small" value={shape.keep} inputProps={{ "aria-label": `What outline ${number} keeps` }} onChange={(event) => onChange({ ...shape, keep: event.target.value })}>
        <MenuItem value="inside">drops what is outside of it</MenuItem>
        <MenuItem value="outside">drops what is inside it</MenuItem>
      </Select>
      <Box>
        {check("curved", "Curved")}
        <FormControlLabel
          control={<Checkbox size="small" disabled={!found || shape.locked} checked={shape.anchor === "product"} onChange={(_, on) => onChange(anchored(shape, on ? "product" : "frame", found))} sx={{ py: 0.25 }} />}
          label="Follows the product"
          slotProps={{ typography: { sx: { fontSize: 12.5 } } }}
        />
        {check("locked", "Locked")}
      </Box>
    </Paper>
  );
}

/** Closed outlines drawn round the product; what they do not keep is backdrop. */
export function OutlinePanel({ bench, found, drawing, corners, onDraw, onClose }: Props) {
  const shapes = bench.detail?.treatment.outlines.shapes ?? [];
  const put = (said: string, next: DrawnShape[]) => bench.set(said, { outlines: { shapes: next } });
  return (
    <>
      <Box sx={{ display: "flex", gap: 1 }}>
        <Button variant={drawing ? "outlined" : "contained"} onClick={() => onDraw(!drawing)}>
          {drawing ? "Stop drawing" : "Draw an outline"}
        </Button>
        {drawing && (
          <Button variant="contained" disabled={corners < 3} onClick={onClose}>
            Close it
          </Button>
        )}
      </Box>
      <Typography sx={{ fontSize: 12.5, color: "text.secondary" }}>
        {drawing ? `${corners} corners so far. Click, or move with the arrows and press Space, to set corners; close it on the first one or with Enter. Escape starts again.` : "For clips, stands and the edge of the table: what lies beyond the outline goes white. Carry it to other shots of the angle or to the whole spin. Its corners can be dragged, or reached with Tab and moved with the arrows; Delete takes one away."}
      </Typography>
      {shapes.map((shape, k) => (
        <One key={k} shape={shape} number={k + 1} found={found} onChange={(next) => put("outline changed", shapes.map((old, i) => (i === k ? next : old)))} onRemove={() => put("outline removed", shapes.filter((_, i) => i !== k))} />
      ))}
    </>
  );
}
