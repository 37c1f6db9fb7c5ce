import { Box, Typography } from "@mui/material";
import { type MouseEvent, useRef, useState } from "react";

import { http, type MarkName } from "../kit/api/client";
import type { components } from "../kit/api/schema";
import { useSurroundColour } from "../kit/surround";
import { Trouble } from "../kit/Trouble";
import { useLatestPicture } from "../kit/useLatestPicture";

type Point = components["schemas"]["PointReadout"] & { x: number; y: number };

/** The finished square on its surround; a click reads the values of a point. */
export function Square({ shotId, outlet, mark, version }: { shotId: number; outlet: string; mark: MarkName; version: string }) {
  const ground = useSurroundColour();
  const picture = useRef<HTMLImageElement>(null);
  const [point, setPoint] = useState<Point | null>(null);
  const { src, fault } = useLatestPicture(`/api/shots/${shotId}/square?outlet=${outlet}&px=1000&mark=${mark}&v=${encodeURIComponent(version)}`);
  const read = async (event: MouseEvent) => {
    const box = picture.current?.getBoundingClientRect();
    if (!box) return;
    const x = (event.clientX - box.left) / box.width;
    const y = (event.clientY - box.top) / box.height;
    const { data } = await http.GET("/api/shots/{shot_id}/point", { params: { path: { shot_id: shotId }, query: { outlet, x: Math.min(1, Math.max(0, x)), y: Math.min(1, Math.max(0, y)) } } });
    if (data) setPoint({ ...data, x, y });
  };
  return (
    <Box sx={{ bgcolor: ground, minHeight: 0, display: "flex", flexDirection: "column", alignItems: "center", justifyContent: "center", p: 1.5, gap: 1 }}>
      <Trouble fault={fault} />
      <Box sx={{ position: "relative", flex: 1, minHeight: 0, width: "100%", display: "flex", justifyContent: "center", alignItems: "center", containerType: "size" }}>
        {src && (
          <Box sx={{ position: "relative", width: "min(100cqw, 100cqh)", aspectRatio: "1" }}>
            <Box component="img" ref={picture} src={src} alt="The finished square" onClick={(event) => void read(event)} sx={{ width: "100%", height: "100%", display: "block", cursor: "crosshair" }} />
            {point && <Box aria-hidden sx={{ position: "absolute", left: `${point.x * 100}%`, top: `${point.y * 100}%`, width: 14, height: 14, ml: "-7px", mt: "-7px", border: "1px solid #000", outline: "1px solid #fff", pointerEvents: "none" }} />}
          </Box>
        )}
      </Box>
      <Typography sx={{ bgcolor: "#fff", px: 1, minHeight: 22, fontSize: 12.5 }} role="status">
        {point ? `${point.red}, ${point.green}, ${point.blue}${point.white ? ": exact white" : ""}` : "Click a point to read its values"}
      </Typography>
    </Box>
  );
}
