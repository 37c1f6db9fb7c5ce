import { Box, Button, Link, Typography } from "@mui/material";

import type { Place, Shot, Verdict } from "../../kit/api/client";
import { sentence } from "../../kit/format";
import { VerdictMark } from "../../kit/VerdictMark";

interface Props {
  shot: Shot;
  verdict: Verdict | undefined;
  reasons: string[];
  places: Place[];
  onPlace: (place: Place) => void;
  onAccept: (accepted: boolean) => void;
}

/** The verdict, why, and the places to look at: each jumps there. */
export function Reasons({ shot, verdict, reasons, places, onPlace, onAccept }: Props) {
  const accepted = shot.cut?.accepted ?? false;
  const doubtful = verdict !== undefined && verdict !== "clean";
  return (
    <Box sx={{ minHeight: 64 }}>
      <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "center", minHeight: 30 }}>
        {verdict && <VerdictMark verdict={verdict} accepted={accepted} />}
        {(doubtful || accepted) && (
          <Button disabled={!accepted && shot.cut?.current !== true} onClick={() => onAccept(!accepted)} title={shot.cut?.current ? "" : "Run it with these settings first"}>
            {accepted ? "Not good after all" : "Accept as it is"}
          </Button>
        )}
      </Box>
      {reasons.map((reason) => (
        <Typography key={reason} sx={{ mt: 0.25, fontSize: 12.5 }}>
          {sentence(reason)}
        </Typography>
      ))}
      {places.length > 0 && (
        <Box sx={{ mt: 0.5, display: "flex", flexWrap: "wrap", columnGap: 1.5 }}>
          {places.map((place, k) => (
            <Link key={k} component="button" onClick={() => onPlace(place)} sx={{ fontSize: 12.5 }}>
              {place.where}
            </Link>
          ))}
        </Box>
      )}
    </Box>
  );
}
