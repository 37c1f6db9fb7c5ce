import { Box, Typography } from "@mui/material";

import type { components } from "../../kit/api/schema";
import { sentence } from "../../kit/format";
import { type LiveLine, useWord } from "./useLive";

type Reading = components["schemas"]["PlacementReading"];

const said: Record<NonNullable<Reading["way"]>, string> = {
  left: "Move it left",
  right: "Move it right",
  up: "Move it back",
  down: "Move it forward",
  "turn left": "Turn it left",
  "turn right": "Turn it right",
  nearer: "Bring it nearer",
  farther: "Move it farther away",
  there: "It stands right",
};

const from: Record<"features" | "silhouette" | "base", string> = {
  features: "read off the product itself",
  silhouette: "read off its silhouette",
  base: "another shape: middle and base line only",
};

const turns: Partial<Record<NonNullable<Reading["way"]>, number>> = { right: 0, down: 90, left: 180, up: 270, nearer: 90, farther: 270 };

/** An arrow of our own for the hand: a bar with a wedge, a bent one for turns, a closed square when it stands right. */
function Way({ way }: { way: NonNullable<Reading["way"]> }) {
  const turning = way === "turn left" || way === "turn right";
  return (
    <svg width="36" height="36" viewBox="0 0 40 40" style={{ flexShrink: 0 }} aria-hidden focusable="false" fill="none" stroke="#1d5c68" strokeWidth="4">
      {way === "there" && <rect x="9" y="9" width="22" height="22" fill="#1d5c68" />}
      {turning && (
        <g transform={way === "turn left" ? "matrix(-1 0 0 1 40 0)" : undefined}>
          <path d="M10 30V18h16" />
          <path d="M20 8l12 10-12 10z" fill="#1d5c68" stroke="none" />
        </g>
      )}
      {way in turns && (
        <g transform={`rotate(${turns[way]} 20 20)`}>
          <path d="M5 20h18" />
          <path d="M21 9l14 11-14 11z" fill="#1d5c68" stroke="none" />
        </g>
      )}
    </svg>
  );
}

function Number({ label, value, unit, limit, ways }: { label: string; value: number | null; unit: string; limit: number; ways: [string, string] }) {
  const off = value !== null && Math.abs(value) > limit;
  return (
    <Box sx={{ minWidth: 84, flexShrink: 0 }}>
      <Typography sx={{ fontSize: 11.5, color: "text.secondary" }}>{label}</Typography>
      <Typography sx={{ fontSize: 16, fontWeight: off ? 700 : 500, lineHeight: 1.2, whiteSpace: "nowrap" }}>
        {value === null ? "cannot tell" : `${Math.abs(value).toFixed(1)} ${unit}`}
        {value !== null && Math.abs(value) >= 0.05 && (
          <Box component="span" sx={{ fontSize: 12, fontWeight: 400, color: "text.secondary", ml: 0.5 }}>
            {value > 0 ? ways[0] : ways[1]}
          </Box>
        )}
      </Typography>
    </Box>
  );
}

/** How far the product is off the guide, and what the hand does next. */
export function Placement({ live }: { live: LiveLine }) {
  const reading = useWord(live, (word) => word.reading?.placement);
  const told = reading?.told;
  return (
    <Box role="status" aria-label="Placement" sx={{ display: "flex", alignItems: "center", gap: 1.5, px: 1.5, height: 60, flexShrink: 0, borderTop: 1, borderColor: "divider", bgcolor: "background.paper", overflow: "hidden" }}>
      {told && reading.way ? (
        <>
          <Way way={reading.way} />
          <Box sx={{ flex: "0 1 230px", minWidth: 110 }}>
            <Typography sx={{ fontWeight: 700, fontSize: 15, lineHeight: 1.2, whiteSpace: "nowrap" }}>{said[reading.way]}</Typography>
            <Typography noWrap title={from[told.by]} sx={{ fontSize: 11.5, color: "text.secondary" }}>{from[told.by]}</Typography>
          </Box>
          <Number label="Across" value={told.right} unit="%" limit={0.6} ways={["right", "left"]} />
          <Number label="Up and down" value={told.down} unit="%" limit={0.6} ways={["low", "high"]} />
          <Number label="Turn" value={told.turn} unit="°" limit={1} ways={["clockwise", "counter"]} />
          <Number label="Size" value={told.size} unit="%" limit={2} ways={["large", "small"]} />
        </>
      ) : (
        <Typography color="text.secondary">{reading?.reason ? sentence(reading.reason) : "Placement is read as soon as there is a live view."}</Typography>
      )}
    </Box>
  );
}
