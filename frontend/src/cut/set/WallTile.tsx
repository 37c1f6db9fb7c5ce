import { Box, ButtonBase, Typography } from "@mui/material";

import type { Shot } from "../../kit/api/client";
import { Picture } from "../../kit/Picture";
import { VerdictMark } from "../../kit/VerdictMark";

export type Face = "cutout" | "matte" | "square" | "frame";

export const faces: Record<Face, string> = { cutout: "Cut-outs", matte: "Mattes", square: "Squares", frame: "Frames" };

function source(shot: Shot, face: Face, tried: number | null): string | null {
  const { cut, frame } = shot;
  // While a value is tried the wall shows what it would give; a shot with a value of its own keeps it.
  if (tried !== null && cut?.levels && (face === "matte" || face === "cutout")) return `${cut.levels}?match=${Math.round(tried)}`;
  return { cutout: cut?.cutout, matte: cut?.matte, square: cut?.square, frame: frame?.preview }[face] ?? frame?.preview ?? null;
}

interface Props {
  shot: Shot;
  face: Face;
  ground: string;
  tried: number | null;
  suffers: "lost" | "leftover" | null;
  onOpen: () => void;
  onFocus: () => void;
  tabIndex: number;
  at: { top: number; left: number; width: number };
}

/** One shot of the wall. */
export function WallTile({ shot, face, ground, tried, suffers, onOpen, onFocus, tabIndex, at }: Props) {
  const onGround = face === "cutout" && tried === null && shot.cut?.cutout;
  const said = suffers === "lost" ? "loses product" : suffers === "leftover" ? "keeps backdrop" : null;
  return (
    <ButtonBase
      data-shot={shot.id}
      tabIndex={tabIndex}
      onClick={onOpen}
      onFocus={onFocus}
      aria-label={`${shot.code} ${shot.angle}${said ? `, ${said} there` : ""}`}
      sx={{ position: "absolute", ...at, flexDirection: "column", alignItems: "stretch", textAlign: "left", outlineOffset: -2 }}
    >
      <Box sx={{ bgcolor: onGround ? ground : undefined, border: suffers ? "3px solid" : "3px solid transparent", borderColor: suffers ? "primary.main" : "transparent", borderStyle: suffers === "leftover" ? "dashed" : "solid" }}>
        <Picture src={source(shot, face, tried)} alt="" ratio={face === "square" ? 1 : 1.5} bare={!!onGround} />
      </Box>
      <Box sx={{ display: "flex", justifyContent: "space-between", gap: 1, py: 0.5 }}>
        <Typography noWrap sx={{ fontSize: 12, fontWeight: 600 }}>
          {shot.code}{" "}
          <Box component="span" sx={{ fontWeight: 400, color: "text.secondary" }}>
            {said ?? shot.angle}
          </Box>
        </Typography>
        <VerdictMark verdict={shot.cut?.verdict ?? null} accepted={shot.cut?.accepted} reasons={shot.problem ? [shot.problem] : shot.cut?.reasons} outdated={shot.cut?.current === false} />
      </Box>
    </ButtonBase>
  );
}
