import { Box } from "@mui/material";
import { type RefObject } from "react";

import { useSurroundColour } from "../../kit/surround";

export interface GuideLook {
  opacity: number;
  outline: boolean;
  hidden: boolean;
}

interface Props {
  canvas: RefObject<HTMLCanvasElement | null>;
  guide: { view: string; outline: string } | null;
  look: GuideLook;
  trouble: string | null;
  pointing: boolean;
  onPoint: (x: number, y: number) => void;
}

/** The live view with the placement guide over it. */
export function LiveView({ canvas, guide, look, trouble, pointing, onPoint }: Props) {
  const ground = useSurroundColour();
  const src = guide && (look.outline ? guide.outline : guide.view);
  return (
    <Box sx={{ flex: 1, minHeight: 0, bgcolor: ground, display: "grid", placeItems: "center", overflow: "hidden", containerType: "size" }}>
      <Box
        onClick={(event) => {
          if (!pointing) return;
          const box = event.currentTarget.getBoundingClientRect();
          onPoint((event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height);
        }}
        sx={{ position: "relative", aspectRatio: "3 / 2", width: "min(100cqw, 150cqh)", bgcolor: "#d8d8d8", cursor: pointing ? "crosshair" : "default" }}
      >
        <Box component="canvas" ref={canvas} width={960} height={640} aria-label="Live view" role="img" sx={{ position: "absolute", inset: 0, width: "100%", height: "100%" }} />
        {src && !look.hidden && (
          <Box component="img" src={src} alt="Placement guide" draggable={false} sx={{ position: "absolute", inset: 0, width: "100%", height: "100%", opacity: look.opacity / 100, pointerEvents: "none" }} />
        )}
        {trouble && (
          <Box role="alert" sx={{ position: "absolute", inset: 0, display: "grid", placeItems: "center", bgcolor: "#e4e4e4", p: 4, textAlign: "center" }}>
            {trouble.charAt(0).toUpperCase() + trouble.slice(1)}.
          </Box>
        )}
      </Box>
    </Box>
  );
}
