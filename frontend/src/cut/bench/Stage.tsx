import { Box } from "@mui/material";
import { type ReactNode, useLayoutEffect, useRef } from "react";

import { useSurroundColour } from "../../kit/surround";
import { Trouble } from "../../kit/Trouble";
import { useLatestPicture } from "../../kit/useLatestPicture";
import { type Point, type Size, type Stage as Staged, staged } from "./stage.logic";

export type Comparing = "none" | "beside" | "split";

interface Props {
  shotId: number;
  frame: Size;
  view: string;
  match: number;
  version: string;
  zoom: number;
  centre: Point;
  comparing: Comparing;
  /** Where the picture is parted, 0 left to 1 right. */
  parted: number;
  onPart: (at: number) => void;
  /** Of the window, as it was last seen; and what to do when it is another. */
  size: Size;
  onSize: (size: Size) => void;
  children: (stage: Staged, pane: Size) => ReactNode;
}

function addressOf(shotId: number, view: string, match: number, version: string, stage: Staged, zoom: number) {
  const { left, top, width, height } = stage.region;
  const common = `view=${view}&match=${match}&v=${version}`;
  return zoom === 0
    ? `/api/shots/${shotId}/look?${common}&width=${Math.min(1280, Math.max(100, Math.round(width * stage.scale)))}`
    : `/api/shots/${shotId}/look-close?${common}&top=${top}&left=${left}&width=${Math.min(4096, width)}&height=${Math.min(2400, height)}`;
}

function Shown({ src, stage, close, alt, testId }: { src: string | null; stage: Staged; close: boolean; alt: string; testId?: string }) {
  if (!src) return null;
  return (
    <Box
      component="img"
      src={src}
      alt={alt}
      draggable={false}
      data-testid={testId}
      sx={{ position: "absolute", left: stage.left, top: stage.top, width: stage.region.width * stage.scale, height: stage.region.height * stage.scale, imageRendering: close ? "pixelated" : "auto", maxWidth: "none" }}
    />
  );
}

/** One shot at any zoom. Whole, it follows the control; close, only what is visible is computed at full size. */
export function Stage({ shotId, frame, view, match, version, zoom, centre, comparing, parted, onPart, size, onSize, children }: Props) {
  const ground = useSurroundColour();
  const box = useRef<HTMLDivElement>(null);
  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return undefined;
    const observer = new ResizeObserver(([entry]) => {
      if (entry) onSize({ width: Math.floor(entry.contentRect.width), height: Math.floor(entry.contentRect.height) });
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, [onSize]);
  const pane = comparing === "beside" ? { width: Math.floor(size.width / 2) - 2, height: size.height } : size;
  const stage = staged(frame, pane, zoom, centre);
  const { src, fault } = useLatestPicture(addressOf(shotId, view, match, version, stage, zoom));
  const before = useLatestPicture(comparing === "none" ? null : addressOf(shotId, "frame", match, "0", stage, zoom));
  const close = zoom >= 2;
  return (
    <Box ref={box} sx={{ flex: 1, minHeight: 0, bgcolor: ground, position: "relative", overflow: "hidden", userSelect: "none", touchAction: "none" }}>
      {comparing === "beside" && (
        <Box sx={{ position: "absolute", left: 0, top: 0, width: pane.width, height: "100%", overflow: "hidden" }}>
          <Shown src={before.src} stage={stage} close={close} alt="The frame as shot" />
        </Box>
      )}
      <Box sx={{ position: "absolute", right: 0, top: 0, width: pane.width, height: "100%", overflow: "hidden", borderLeft: comparing === "beside" ? "2px solid #1c1c1c" : undefined }}>
        <Shown src={src} stage={stage} close={close} alt={`The shot, ${view}`} testId="look" />
        {comparing === "split" && (
          <Box sx={{ position: "absolute", inset: 0, clipPath: `inset(0 ${100 - 100 * parted}% 0 0)`, pointerEvents: "none" }}>
            <Shown src={before.src} stage={stage} close={close} alt="The frame as shot" />
          </Box>
        )}
        {children(stage, pane)}
        {comparing === "split" && (
          <Box
            component="input"
            type="range"
            aria-label="Where the picture is parted"
            min={0}
            max={1000}
            value={Math.round(parted * 1000)}
            onChange={(event: React.ChangeEvent<HTMLInputElement>) => onPart(Number(event.target.value) / 1000)}
            sx={{ position: "absolute", left: 0, right: 0, bottom: 6, width: "100%", m: 0, accentColor: "#1d5c68" }}
          />
        )}
      </Box>
      <Box sx={{ position: "absolute", top: 8, left: 8, right: 8, pointerEvents: "none" }}>
        <Trouble fault={fault} />
      </Box>
    </Box>
  );
}
