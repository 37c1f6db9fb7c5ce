import { Box, Slider, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../../kit/api/client";
import type { Studio } from "./useTable";

type Group = "front" | "backdrop";

const names: Record<Group, string> = { front: "Front lamps", backdrop: "Backdrop lamps" };

/** The set seen from above: camera below, table in the middle, the sweep behind it, lamps where they stand. */
function Plan({ front, backdrop, onSwitch }: { front: number; backdrop: number; onSwitch: (group: Group) => void }) {
  const lamp = (group: Group, level: number, x: number, y: number, turn: number) => (
    <g key={`${group}${x}`} transform={`translate(${x} ${y}) rotate(${turn})`}>
      {level > 0 && <path d="M-7 4L7 4L15 30L-15 30Z" fill="#8a8a8a" opacity={0.12 + 0.3 * Math.min(1, level)} />}
      <rect x="-8" y="-3" width="16" height="6" fill={level > 0 ? "#1c1c1c" : "#fff"} stroke="#1c1c1c" strokeWidth="1.5" />
    </g>
  );
  return (
    <svg viewBox="0 0 180 132" width="100%" role="img" aria-label="Plan of the set from above">
      <path d="M20 18Q90 4 160 18" fill="none" stroke="#565656" strokeWidth="3" />
      <rect x="58" y="44" width="64" height="38" fill="#fff" stroke="#565656" strokeWidth="1.5" />
      <rect x="82" y="56" width="16" height="14" fill="#bdbdbd" />
      <path d="M82 118h16v10H82zM86 112h8v6h-8z" fill="#1c1c1c" />
      <g onClick={() => onSwitch("backdrop")} style={{ cursor: "pointer" }}>
        {lamp("backdrop", backdrop, 24, 46, 210)}
        {lamp("backdrop", backdrop, 156, 46, 150)}
      </g>
      <g onClick={() => onSwitch("front")} style={{ cursor: "pointer" }}>
        {lamp("front", front, 30, 112, 225)}
        {lamp("front", front, 150, 112, 135)}
      </g>
    </svg>
  );
}

/** Switches and dims the lamps, on the plan or by the sliders. */
export function SetPlan({ studio }: { studio: Studio }) {
  const client = useQueryClient();
  const change = api.useMutation("put", "/api/studio/lamps", { onSuccess: () => void client.invalidateQueries({ queryKey: ["get", "/api/studio"] }) });
  const [moving, setMoving] = useState<Partial<Record<Group, number>>>({});
  const lamps = studio.lamps;
  if (!lamps) return null;
  const set = (group: Group, level: number) => {
    setMoving({});
    change.mutate({ body: { ...lamps, [group]: level } });
  };
  return (
    <Box sx={{ display: "flex", gap: 2, alignItems: "center" }}>
      <Box sx={{ width: 150, flexShrink: 0 }}>
        <Plan front={lamps.front} backdrop={lamps.backdrop} onSwitch={(group) => set(group, lamps[group] > 0 ? 0 : 1)} />
      </Box>
      <Box sx={{ flex: 1 }}>
        {(["backdrop", "front"] as const).map((group) => (
          <Box key={group}>
            <Typography sx={{ fontSize: 12 }}>
              {names[group]}: {lamps[group] > 0 ? `${Math.round(100 * (moving[group] ?? lamps[group]))} %` : "off"}
            </Typography>
            <Slider
              size="small"
              aria-label={names[group]}
              min={0}
              max={1.5}
              step={0.05}
              value={moving[group] ?? lamps[group]}
              onChange={(_, value) => setMoving({ [group]: value })}
              onChangeCommitted={(_, value) => set(group, value)}
            />
          </Box>
        ))}
      </Box>
    </Box>
  );
}
