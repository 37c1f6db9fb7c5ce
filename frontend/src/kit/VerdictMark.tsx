import { Box, Tooltip } from "@mui/material";

import type { Verdict } from "./api/client";
import { sentence, verdictWord } from "./format";

const ink: Record<Verdict | "none" | "accepted", string> = { clean: "#2d5f45", accepted: "#2d5f45", look_again: "#8a5a00", redo: "#9b2c1f", none: "#7a7a7a" };

/** Shapes of our own: a full square stands for itself, a tilted one leans, a broken one has a gap. */
function Shape({ verdict }: { verdict: Verdict | "none" | "accepted" }) {
  const colour = ink[verdict];
  return (
    <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden focusable="false">
      {verdict === "clean" && <rect x="1.5" y="1.5" width="9" height="9" fill={colour} />}
      {verdict === "look_again" && <rect x="2.4" y="2.4" width="7.2" height="7.2" fill="none" stroke={colour} strokeWidth="2" transform="rotate(28 6 6)" />}
      {verdict === "redo" && <path d="M1.5 10.5V1.5H7M5 10.5h5.5V5" fill="none" stroke={colour} strokeWidth="2" />}
      {verdict === "accepted" && <path d="M1.5 1.5h9v6h-9zM1.5 10.5h9" fill={colour} stroke={colour} strokeWidth="1.6" />}
      {verdict === "none" && <rect x="2" y="5.2" width="8" height="1.6" fill={colour} />}
    </svg>
  );
}

/** A verdict by shape, word and colour, with its reasons on hover and for screen readers. */
export function VerdictMark({ verdict, reasons = [], outdated = false, accepted = false }: { verdict: Verdict | null; reasons?: string[]; outdated?: boolean; accepted?: boolean }) {
  const word = accepted ? "accepted" : verdict ? verdictWord[verdict] : "not cut";
  const shown = accepted ? "accepted" : (verdict ?? "none");
  const said = reasons.map(sentence).join(" ") || (outdated ? "Made with earlier settings; run again." : "");
  return (
    <Tooltip title={said}>
      <Box component="span" sx={{ display: "inline-flex", alignItems: "center", gap: 0.75, color: ink[shown], fontWeight: 600, fontSize: 12, whiteSpace: "nowrap" }}>
        <Shape verdict={shown} />
        {word}
        {outdated && <Box component="span" sx={{ color: "text.secondary", fontWeight: 400 }}>· outdated</Box>}
      </Box>
    </Tooltip>
  );
}
