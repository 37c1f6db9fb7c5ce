import { Box, Button, LinearProgress, Typography } from "@mui/material";

import type { Shot } from "../../kit/api/client";
import type { Shutter } from "./useTable";

interface Props {
  shot: Shot;
  shots: Shot[];
  onSpin: () => void;
  shutter: Shutter;
  turntable: boolean;
  ready: boolean;
}

/** All positions of a spin that are missing, one after the other; a single one is taken like any shot. */
export function SpinOrder({ shot, shots, onSpin, shutter, turntable, ready }: Props) {
  const positions = shots.filter((each) => each.product_id === shot.product_id && each.spin === shot.spin);
  const there = positions.filter((each) => each.frame).length;
  const missing = positions.length - there;
  return (
    <Box sx={{ mb: 1 }}>
      <Typography sx={{ fontSize: 12 }} role="status">
        {shot.spin}: {there} of {positions.length} positions are there
      </Typography>
      <LinearProgress variant="determinate" value={(100 * there) / Math.max(1, positions.length)} sx={{ my: 0.5 }} aria-label={`Positions of ${shot.spin ?? ""}`} />
      {shutter.long ? (
        <Button fullWidth variant="outlined" onClick={shutter.halt}>
          Stop after this position
        </Button>
      ) : (
        <Button fullWidth variant="outlined" disabled={!ready || shutter.busy || missing === 0 || !turntable} onClick={onSpin}>
          {!turntable ? "No turntable: turn by hand, take each" : missing === 0 ? "The spin is complete" : there ? `Shoot the missing ${missing}` : `Shoot all ${missing} positions`}
        </Button>
      )}
    </Box>
  );
}
