import { Box, Button, Paper, Typography } from "@mui/material";

import { sentence } from "../../kit/format";
import { Picture } from "../../kit/Picture";
import { VerdictMark } from "../../kit/VerdictMark";
import type { AtTable } from "./useTable";

interface Props {
  atTable: AtTable | null;
  onGuide?: (frameId: number) => void;
  onAgain: () => void;
  onCompare?: () => void;
  /** Side of the square in px. */
  side?: number;
}

/** The finished square of the last take and its verdict, while the product is still on the table. */
export function LastTake({ atTable, onGuide, onAgain, onCompare, side = 170 }: Props) {
  const shot = atTable?.shot;
  if (!shot?.frame) {
    return (
      <Paper sx={{ p: 1.5 }}>
        <Typography variant="h2">Last take</Typography>
        <Typography color="text.secondary">As soon as a take lands, its finished square and its verdict stand here.</Typography>
      </Paper>
    );
  }
  const cut = shot.cut?.current || shot.cut?.estimated ? shot.cut : null;
  const stale = (cut?.freshness ?? []).filter((found) => found.state === "slight" || found.state === "shoot again");
  const frameId = shot.frame.id;
  const isGuide = atTable?.guide?.frame.id === frameId;
  const number = (atTable?.takes.findIndex((take) => take.id === frameId) ?? -1) + 1;
  return (
    <Paper sx={{ p: 1.5 }} aria-live="polite">
      <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "baseline" }}>
        <Typography variant="h2">
          {shot.code} {shot.angle}
        </Typography>
        <Typography sx={{ fontSize: 12, color: "text.secondary" }}>{shot.takes > 1 ? `take ${number} of ${shot.takes}` : "take 1"}</Typography>
      </Box>
      <Box sx={{ display: "grid", gridTemplateColumns: `${side}px 1fr`, gap: 1.5, mt: 1 }}>
        <Picture src={cut?.square ?? null} alt={`Finished square of ${shot.code} ${shot.angle}`} />
        <Box sx={{ minWidth: 0, display: "flex", flexDirection: "column" }}>
          {shot.problem ? null : cut ? <VerdictMark verdict={cut.verdict} reasons={cut.reasons} /> : <Typography color="text.secondary">being cut ...</Typography>}
          <Box sx={{ fontSize: 12, mt: 0.5, maxHeight: side - 100, overflow: "auto" }}>
            {shot.problem && <Box sx={{ color: "error.main" }}>{sentence(shot.problem)}</Box>}
            {cut?.reasons.slice(0, 2).map((reason) => (
              <p key={reason} style={{ margin: "0 0 4px" }}>
                {sentence(reason)}
              </p>
            ))}
            {stale.map((found) => (
              <Box component="p" key={found.what} sx={{ m: 0, mb: 0.5, fontWeight: found.state === "shoot again" ? 700 : 400, color: found.state === "shoot again" ? "error.main" : "text.primary" }}>
                {sentence(found.said)}
              </Box>
            ))}
            {cut && !cut.estimated && stale.length === 0 && <Box sx={{ color: "text.secondary" }}>The backdrop frame fits.</Box>}
          </Box>
          <Box sx={{ mt: "auto", display: "flex", flexDirection: "column", alignItems: "flex-start" }}>
            <Button onClick={onAgain}>Take it again (R)</Button>
            {onCompare && shot.takes > 1 && <Button onClick={onCompare}>Compare takes (K)</Button>}
            {onGuide && (
              <Button disabled={isGuide} onClick={() => onGuide(frameId)} sx={{ textAlign: "left", lineHeight: 1.25 }}>
                {isGuide ? `Guide for ${shot.angle}` : `Make it the guide for ${shot.angle}`}
              </Button>
            )}
          </Box>
        </Box>
      </Box>
    </Paper>
  );
}
