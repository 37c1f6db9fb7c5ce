import { Box, ButtonBase, Typography } from "@mui/material";
import { useNavigate } from "react-router";

import type { Counts } from "./api/client";
import { stationFacts, type Station } from "./stations";

/** Plan, Shoot, Cut, Finish, Deliver: navigation and progress in one line. */
export function StationLine({ shootId, counts, here }: { shootId: number; counts: Counts; here: Station }) {
  const go = useNavigate();
  const facts = stationFacts(counts);
  const last = facts.length - 1;
  return (
    <Box component="nav" aria-label="Stations" sx={{ display: "flex", flex: 1, maxWidth: 860 }}>
      {facts.map(({ station, title, said, part }, i) => {
        const current = station === here;
        return (
          <ButtonBase
            key={station}
            onClick={() => void go(`/shoots/${shootId}/${station}`)}
            aria-current={current ? "page" : undefined}
            sx={{ flex: 1, flexDirection: "column", alignItems: "flex-start", py: 0.75, px: 1, position: "relative", textAlign: "left" }}
          >
            <Box sx={{ position: "relative", width: "100%", height: 12, mb: 0.25 }}>
              <Box sx={{ position: "absolute", top: 5, left: 0, right: i === last ? 0 : -16, height: 2, bgcolor: "#cfcfcf" }} />
              <Box sx={{ position: "absolute", top: 5, left: 0, width: `calc(${Math.round(part * 100)}% + ${Math.round(part * (i === last ? 0 : 16))}px)`, height: 2, bgcolor: "primary.main" }} />
              <Box sx={{ position: "absolute", top: current ? 0 : 2, left: 0, width: current ? 12 : 8, height: current ? 12 : 8, bgcolor: current ? "primary.main" : "#fbfbfb", border: 2, borderColor: "primary.main" }} />
            </Box>
            <Typography sx={{ fontWeight: current ? 700 : 500, fontSize: 13, lineHeight: 1.25 }}>{title}</Typography>
            <Typography sx={{ fontSize: 11.5, color: "text.secondary", lineHeight: 1.25, whiteSpace: "nowrap" }}>{said}</Typography>
          </ButtonBase>
        );
      })}
    </Box>
  );
}
