import { Box, Button, Typography } from "@mui/material";

import { Trouble } from "../../kit/Trouble";
import { FIRST_BOX, framingSaid } from "./framing.logic";
import type { FramingState } from "./useFraming";

/** The framing box: drawn on the live view, kept for every shot of the shoot and with its set-ups. */
export function FramingPanel({ framing }: { framing: FramingState }) {
  const { kept, drawn, draw, set, fault } = framing;
  return (
    <Box>
      <Typography sx={{ fontSize: 12, mb: 1 }}>
        {drawn ? "Drag the box, its sides or its corners in the live view." : kept ? `Kept: ${framingSaid(kept)}. What stands outside is left out of every picture.` : "The whole view is kept. A box leaves out stands, clips and the edges of the sweep."}
      </Typography>
      <Box sx={{ display: "flex", gap: 1 }}>
        {drawn ? (
          <>
            <Button variant="contained" onClick={() => set(drawn)}>
              Keep this box
            </Button>
            <Button onClick={() => draw(null)}>Leave it as it was</Button>
          </>
        ) : (
          <>
            <Button variant="outlined" onClick={() => draw(kept ?? FIRST_BOX)}>
              {kept ? "Change the box" : "Draw a box"}
            </Button>
            {kept && <Button onClick={() => set(null)}>Keep the whole view</Button>}
          </>
        )}
      </Box>
      <Trouble fault={fault} />
    </Box>
  );
}
