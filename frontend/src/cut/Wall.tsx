import { Box, ButtonBase, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";

import type { Shoot, Shot } from "../kit/api/client";
import { Picture } from "../kit/Picture";
import { useWidth } from "../kit/useWidth";
import { VerdictMark } from "../kit/VerdictMark";

type Face = "matte" | "square" | "frame";

const faces: Record<Face, { word: string; src: (shot: Shot) => string | null }> = {
  matte: { word: "Mattes", src: (shot) => shot.cut?.matte ?? shot.frame?.preview ?? null },
  square: { word: "On white", src: (shot) => shot.cut?.square ?? shot.frame?.preview ?? null },
  frame: { word: "Frames", src: (shot) => shot.frame?.preview ?? null },
};

/** All shots of the set at once, to see whether a value holds. */
export function Wall({ shoot, shots }: { shoot: Shoot; shots: Shot[] }) {
  const go = useNavigate();
  const [face, setFace] = useState<Face>("matte");
  const scroller = useRef<HTMLDivElement>(null);
  const width = useWidth(scroller);
  const across = Math.max(2, Math.floor(width / 214));
  const tile = width / across;
  const height = (face === "square" ? tile - 12 : (tile - 12) / 1.5) + 44;
  const virtual = useVirtualizer({ count: Math.ceil(shots.length / across), getScrollElement: () => scroller.current, estimateSize: () => height, overscan: 3 });
  return (
    <>
      <Box sx={{ display: "flex", alignItems: "center", gap: 2, mb: 1 }}>
        <Typography variant="h2">The doubtful ones first</Typography>
        <Box sx={{ flex: 1 }} />
        <ToggleButtonGroup size="small" exclusive value={face} onChange={(_, next: Face | null) => next && setFace(next)} aria-label="What the wall shows">
          {Object.entries(faces).map(([name, { word }]) => (
            <ToggleButton key={name} value={name} sx={{ px: 1.5, py: 0.25 }}>
              {word}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
      </Box>
      <Box ref={scroller} sx={{ flex: 1, overflow: "auto" }}>
        <Box sx={{ height: Math.ceil(shots.length / across) * height, position: "relative" }}>
          {virtual.getVirtualItems().flatMap((line) =>
            shots.slice(line.index * across, (line.index + 1) * across).map((shot, k) => (
              <ButtonBase
                key={shot.id}
                onClick={() => void go(`/shoots/${shoot.id}/cut/${shot.id}`)}
                sx={{ position: "absolute", top: line.index * height, left: k * tile, width: tile - 12, flexDirection: "column", alignItems: "stretch", textAlign: "left" }}
              >
                <Picture src={faces[face].src(shot)} alt={`${shot.code} ${shot.angle}`} ratio={face === "square" ? 1 : 1.5} />
                <Box sx={{ display: "flex", justifyContent: "space-between", py: 0.5 }}>
                  <Typography noWrap sx={{ fontSize: 12, fontWeight: 600 }}>
                    {shot.code}
                  </Typography>
                  <VerdictMark verdict={shot.cut?.verdict ?? null} reasons={shot.problem ? [shot.problem] : shot.cut?.reasons} outdated={shot.cut?.current === false} />
                </Box>
              </ButtonBase>
            )),
          )}
        </Box>
      </Box>
    </>
  );
}
