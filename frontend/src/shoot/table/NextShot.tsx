import { Box, Button, Paper, TextField, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useState } from "react";

import type { Shot } from "../../kit/api/client";
import { plural } from "../../kit/format";

export type Order = "product" | "angle";

interface Props {
  shot: Shot | null;
  left: number;
  order: Order;
  onOrder: (order: Order) => void;
  onCode: (code: string) => boolean;
  onTake: () => void;
  onEmptySet: () => void;
  onSilhouette: () => void;
  onSkip: () => void;
  hasBackdrop: boolean;
  busy: boolean;
  ready: boolean;
}

/** The named shot, and the shutter that fills it. */
export function NextShot({ shot, left, order, onOrder, onCode, onTake, onEmptySet, onSilhouette, onSkip, hasBackdrop, busy, ready }: Props) {
  const [code, setCode] = useState("");
  const [unknown, setUnknown] = useState("");
  return (
    <Paper sx={{ p: 1.5 }}>
      <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "center", mb: 0.5 }}>
        <Typography sx={{ fontSize: 12, color: "text.secondary" }}>{left ? `${plural(left, "shot")} to take, in order` : "All shots are taken"}</Typography>
        <ToggleButtonGroup exclusive size="small" value={order} onChange={(_, value: Order | null) => value && onOrder(value)} aria-label="Order of the list" sx={{ "& .MuiToggleButton-root": { py: 0, px: 1, textTransform: "none", fontSize: 12 } }}>
          <ToggleButton value="product">by product</ToggleButton>
          <ToggleButton value="angle">by angle</ToggleButton>
        </ToggleButtonGroup>
      </Box>
      <Typography variant="h1" sx={{ lineHeight: 1.2 }} data-testid="named-shot">
        {shot ? `${shot.code} ${shot.angle}` : "Nothing left to shoot"}
      </Typography>
      <Typography color="text.secondary" noWrap sx={{ minHeight: 20 }}>
        {shot?.name}
      </Typography>
      <Button fullWidth variant="contained" size="large" disabled={!shot || busy || !ready} onClick={onTake} sx={{ my: 1, py: 1, fontSize: 15 }}>
        {busy ? "Taking ..." : shot?.frame ? "Take again (T)" : "Take (T)"}
      </Button>
      <Box sx={{ display: "flex", gap: 0.5, flexWrap: "wrap" }}>
        <Button variant={hasBackdrop ? "text" : "outlined"} disabled={!shot || busy || !ready} onClick={onEmptySet}>
          Empty set (E)
        </Button>
        <Button disabled={!shot?.frame || busy || !ready} onClick={onSilhouette}>
          Silhouette
        </Button>
        <Button disabled={!shot || busy} onClick={onSkip}>
          Skip
        </Button>
      </Box>
      {!hasBackdrop && shot && (
        <Typography sx={{ fontSize: 12, mt: 0.5 }}>
          No backdrop frame for {shot.angle} yet. Takes are cut against a guess until the empty set is shot.
        </Typography>
      )}
      <Box
        component="form"
        onSubmit={(event) => {
          event.preventDefault();
          setUnknown(onCode(code.trim()) ? "" : code.trim());
          setCode("");
          // Back to the shortcuts: the next key is the shutter.
          if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
        }}
        sx={{ mt: 1 }}
      >
        <TextField fullWidth value={code} onChange={(event) => setCode(event.target.value)} placeholder="Type or scan a product code" slotProps={{ htmlInput: { "aria-label": "Product code" } }} error={unknown !== ""} helperText={unknown && `${unknown} is not in the product list of this shoot`} sx={{ "& input": { py: 0.75 }, bgcolor: "#fff" }} />
      </Box>
    </Paper>
  );
}
