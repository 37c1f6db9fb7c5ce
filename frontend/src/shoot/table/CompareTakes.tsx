import { Box, Button, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";

import { api } from "../../kit/api/client";
import { keys } from "../../kit/keys";
import { useSurroundColour } from "../../kit/surround";
import { Trouble } from "../../kit/Trouble";
import type { AtTable } from "./useTable";

/** The takes of one shot in the same place, one at a time: whatever differs jumps to the eye. */
export function CompareTakes({ atTable, onClose }: { atTable: AtTable; onClose: () => void }) {
  const client = useQueryClient();
  const ground = useSurroundColour();
  const choose = api.useMutation("put", "/api/shots/{shot_id}/take", { onSuccess: () => void client.invalidateQueries() });
  const { shot, takes } = atTable;
  const chosen = shot?.frame?.id ?? null;
  const [shown, setShown] = useState(chosen);
  const [before, setBefore] = useState<number | null>(null);
  // The newest other one, until two were looked at; the takes may come in later than the shot.
  const other = before ?? takes.filter((take) => take.id !== shown).at(-1)?.id ?? null;
  const show = (id: number) => {
    if (id === shown) return;
    setBefore(shown);
    setShown(id);
  };
  useHotkeys(keys.swapTakes.keys, () => other !== null && show(other), [other, shown]);
  useHotkeys("escape", onClose);
  if (!shot) return null;
  return (
    <Box role="dialog" aria-label={`Takes of ${shot.code} ${shot.angle}`} sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column", bgcolor: ground }}>
      <Box sx={{ flex: 1, minHeight: 0, display: "grid", placeItems: "center", containerType: "size", overflow: "hidden" }}>
        <Box sx={{ position: "relative", aspectRatio: "3 / 2", width: "min(100cqw, 150cqh)" }}>
          {takes.map((take, i) => (
            <Box key={take.id} component="img" src={`/api/frames/${take.id}/view?width=1200`} alt={take.id === shown ? `Take ${i + 1}` : ""} draggable={false} sx={{ position: "absolute", inset: 0, width: "100%", height: "100%", objectFit: "contain", visibility: take.id === shown ? "visible" : "hidden" }} />
          ))}
        </Box>
      </Box>
      <Box sx={{ display: "flex", alignItems: "center", gap: 1.5, px: 1.5, py: 0.75, bgcolor: "background.paper", borderTop: 1, borderColor: "divider", flexWrap: "wrap" }}>
        <Typography sx={{ fontWeight: 650 }}>
          {shot.code} {shot.angle}
        </Typography>
        <ToggleButtonGroup exclusive size="small" value={shown} onChange={(_, id: number | null) => id !== null && show(id)} aria-label="Which take is shown" sx={{ "& .MuiToggleButton-root": { py: 0.25, textTransform: "none" } }}>
          {takes.map((take, i) => (
            <ToggleButton key={take.id} value={take.id}>
              Take {i + 1}
              {take.id === chosen && ", chosen"}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        <Button onClick={() => other !== null && show(other)}>Toggle (X)</Button>
        <Box sx={{ flex: 1 }} />
        <Button variant="contained" disabled={shown === chosen || choose.isPending} onClick={() => shown !== null && choose.mutate({ params: { path: { shot_id: shot.id } }, body: { frame_id: shown } })}>
          Choose this take
        </Button>
        <Button onClick={onClose}>Back to the live view</Button>
        <Trouble fault={choose.error} />
      </Box>
    </Box>
  );
}
