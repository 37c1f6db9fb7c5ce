import { Box, Typography } from "@mui/material";
import type { PointerEvent } from "react";

import type { Tuning } from "../../kit/api/client";
import { plural } from "../../kit/format";

const HEIGHT = 150;
const HALF = HEIGHT / 2 - 4;

interface Props {
  tuning: Tuning;
  value: number | null;
  /** The column that is pointed at, if any. */
  pointed: number | null;
  onPoint: (match: number | null) => void;
  onChoose: (match: number) => void;
}

/**
 * For each backdrop match, how many shots would lose product (hanging from the top) and how many would keep
 * leftover backdrop (standing at the bottom). The open channel between them is where to stand.
 */
export function MatchChart({ tuning, value, pointed, onPoint, onChoose }: Props) {
  const { columns, proposed } = tuning;
  const most = Math.max(4, ...columns.map((column) => Math.max(column.lost.length, column.leftover.length)));
  const tall = (count: number) => (count ? Math.max(3, (count / most) * HALF) : 0);
  const here = value ?? proposed;
  const width = 100 / columns.length;
  const nearest = (event: PointerEvent<HTMLElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const at = Math.floor(((event.clientX - box.left) / box.width) * columns.length);
    return columns[Math.min(columns.length - 1, Math.max(0, at))]?.match ?? null;
  };
  const shown = columns.find((column) => column.match === pointed);
  return (
    <Box>
      <Typography sx={{ fontSize: 12, color: "text.secondary" }}>shots that would lose product</Typography>
      <Box
        role="img"
        aria-label={`Proposed ${proposed}. ${columns.map((c) => `At ${c.match}: ${c.lost.length} lose product, ${c.leftover.length} keep backdrop`).join("; ")}`}
        onPointerMove={(event) => onPoint(nearest(event))}
        onPointerLeave={() => onPoint(null)}
        onClick={() => pointed !== null && onChoose(pointed)}
        sx={{ position: "relative", overflow: "hidden", height: HEIGHT, bgcolor: "#fff", border: 1, borderColor: "divider", mx: "8px", cursor: "crosshair" }}
      >
        {columns.map((column, k) => (
          <Box key={column.match} sx={{ position: "absolute", left: `${k * width}%`, width: `${width}%`, top: 0, bottom: 0, bgcolor: column.match === pointed ? "#ececec" : undefined }}>
            <Box sx={{ position: "absolute", top: 0, left: 0.5, right: 0.5, height: tall(column.lost.length), bgcolor: "#4c4c4c" }} />
            <Box sx={{ position: "absolute", bottom: 0, left: 0.5, right: 0.5, height: tall(column.leftover.length), background: "repeating-linear-gradient(45deg,#8a8a8a 0 2px,#e6e6e6 2px 5px)" }} />
          </Box>
        ))}
        <Box sx={{ position: "absolute", left: `${proposed}%`, top: HEIGHT / 2 - 9, ml: "-4px", width: 0, height: 0, border: "4px solid transparent", borderTopColor: "primary.main" }} />
        <Box sx={{ position: "absolute", left: `${proposed}%`, top: HEIGHT / 2 + 1, ml: "-4px", width: 0, height: 0, border: "4px solid transparent", borderBottomColor: "primary.main" }} />
        <Box sx={{ position: "absolute", left: `${here}%`, top: 0, bottom: 0, width: 2, ml: "-1px", bgcolor: "primary.main" }} />
      </Box>
      <Box sx={{ display: "flex", justifyContent: "space-between", fontSize: 12, color: "text.secondary" }}>
        <span>shots that would keep leftover backdrop</span>
        {tuning.done < tuning.total && (
          <span>
            {tuning.done} of {tuning.total}
          </span>
        )}
      </Box>
      <Typography sx={{ fontSize: 12, minHeight: 36 }}>
        {shown ? `At ${shown.match}: ${plural(shown.lost.length, "shot")} would lose product, ${shown.leftover.length} would keep backdrop. Their tiles are framed; click to stand here.` : `The valley is at ${proposed}. Point at a column to see which shots would suffer there.`}
      </Typography>
    </Box>
  );
}
