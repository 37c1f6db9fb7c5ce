import { Box } from "@mui/material";
import { type PointerEvent, useLayoutEffect, useRef, useState } from "react";

import type { ViewName } from "../kit/api/client";
import { useSurroundColour } from "../kit/surround";
import { Trouble } from "../kit/Trouble";
import { useLatestPicture } from "../kit/useLatestPicture";
import { visibleRegion } from "./cut.logic";

export interface Look {
  view: ViewName;
  match: number;
  /** 0 shows the whole frame; 1 is 100 %, 2 is 200 %. */
  zoom: number;
  centre: { x: number; y: number };
}

interface Props {
  shotId: number;
  frame: { width: number; height: number };
  look: Look;
  version: string;
  onMove: (centre: { x: number; y: number }) => void;
  onZoom: (zoom: number, centre: { x: number; y: number }) => void;
}

function useSize() {
  const ref = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 900, height: 600 });
  useLayoutEffect(() => {
    const element = ref.current;
    if (!element) return undefined;
    const observer = new ResizeObserver(([entry]) => entry && setSize({ width: Math.floor(entry.contentRect.width), height: Math.floor(entry.contentRect.height) }));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return { ref, size };
}

/** One shot at any zoom. Whole, it follows the control; close, only what is visible is computed at full size. */
export function Looking({ shotId, frame, look, version, onMove, onZoom }: Props) {
  const ground = useSurroundColour();
  const { ref, size } = useSize();
  const [drag, setDrag] = useState<{ x: number; y: number; dx: number; dy: number } | null>(null);
  const fit = Math.min(size.width / frame.width, size.height / frame.height);
  const shown = { width: Math.round(frame.width * fit), height: Math.round(frame.height * fit) };
  const region = visibleRegion(look.centre, size, look.zoom || 1, frame);
  const common = `view=${look.view}&match=${look.match}&v=${version}`;
  const address =
    look.zoom === 0
      ? `/api/shots/${shotId}/look?${common}&width=${Math.min(1280, Math.max(100, shown.width))}`
      : `/api/shots/${shotId}/look-close?${common}&top=${region.top}&left=${region.left}&width=${Math.min(3200, region.width)}&height=${Math.min(2400, region.height)}`;
  const { src, fault } = useLatestPicture(address);

  const pressed = (event: PointerEvent) => {
    if (look.zoom === 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    setDrag({ x: event.clientX, y: event.clientY, dx: 0, dy: 0 });
  };
  const moved = (event: PointerEvent) => drag && setDrag({ ...drag, dx: event.clientX - drag.x, dy: event.clientY - drag.y });
  const released = () => {
    if (drag) onMove({ x: region.left + region.width / 2 - drag.dx / look.zoom, y: region.top + region.height / 2 - drag.dy / look.zoom });
    setDrag(null);
  };
  const doubleClicked = (event: React.MouseEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    const x = (event.clientX - box.left - (size.width - shown.width) / 2) / fit;
    const y = (event.clientY - box.top - (size.height - shown.height) / 2) / fit;
    onZoom(look.zoom === 0 ? 1 : 0, look.zoom === 0 ? { x, y } : look.centre);
  };
  return (
    <Box
      ref={ref}
      onPointerDown={pressed}
      onPointerMove={moved}
      onPointerUp={released}
      onDoubleClick={doubleClicked}
      sx={{ flex: 1, minHeight: 0, bgcolor: ground, position: "relative", overflow: "hidden", cursor: look.zoom ? "grab" : "zoom-in", touchAction: "none", userSelect: "none" }}
    >
      {src && (
        <Box
          component="img"
          src={src}
          alt={`The shot, ${look.view}`}
          draggable={false}
          data-testid="look"
          sx={{
            position: "absolute",
            left: "50%",
            top: "50%",
            width: look.zoom ? region.width * look.zoom : shown.width,
            height: look.zoom ? region.height * look.zoom : shown.height,
            transform: `translate(calc(-50% + ${drag?.dx ?? 0}px), calc(-50% + ${drag?.dy ?? 0}px))`,
            imageRendering: look.zoom >= 2 ? "pixelated" : "auto",
          }}
        />
      )}
      <Box sx={{ position: "absolute", top: 8, left: 8, right: 8 }}>
        <Trouble fault={fault} />
      </Box>
    </Box>
  );
}
