import { Box } from "@mui/material";
import { type KeyboardEvent, type ReactNode, type RefObject, useEffect, useRef, useState } from "react";

import { useSurroundColour } from "../../kit/surround";
import type { Mark, Pointing, PointingState } from "./usePointing";

interface Props {
  canvas: RefObject<HTMLCanvasElement | null>;
  guide: { view: string; outline: string } | null;
  look: { opacity: number; outline: boolean; hidden: boolean };
  trouble: string | null;
  pointing: PointingState;
  box: ReactNode;
}

const asks: Record<NonNullable<Pointing>, string> = {
  neutral: "Point at something grey or white",
  focus: "Point at what should be sharp",
  near: "Point at the nearest part",
  far: "Point at the farthest part",
};

function MarkSign({ mark, name }: { mark: Mark; name: string }) {
  return (
    <Box sx={{ position: "absolute", left: `${100 * mark.x}%`, top: `${100 * mark.y}%`, pointerEvents: "none" }}>
      <Box sx={{ position: "absolute", width: 14, height: 2, left: -7, top: -1, bgcolor: "#1c1c1c", outline: "1px solid #fff" }} />
      <Box sx={{ position: "absolute", left: 12, top: -10, px: 0.75, bgcolor: "#fff", fontSize: 12, whiteSpace: "nowrap" }}>
        {name} {Math.round(mark.mm)} mm
      </Box>
    </Box>
  );
}

const STEP = 0.02;

/** Pointing with the arrow keys and Enter, for those who have no pointer in hand; Escape gives it up. */
function Aim({ pointing, kind }: { pointing: PointingState; kind: NonNullable<Pointing> }) {
  const [at, setAt] = useState({ x: 0.5, y: 0.5 });
  const here = useRef<HTMLDivElement>(null);
  useEffect(() => here.current?.focus({ preventScroll: true }), []);
  const moved = (event: KeyboardEvent) => {
    const x = ({ ArrowLeft: -STEP, ArrowRight: STEP } as Record<string, number>)[event.key] ?? 0;
    const y = ({ ArrowUp: -STEP, ArrowDown: STEP } as Record<string, number>)[event.key] ?? 0;
    if (event.key === "Enter") pointing.at(at.x, at.y);
    else if (event.key === "Escape") pointing.ask(null);
    else if (x || y) setAt({ x: Math.min(1, Math.max(0, at.x + x)), y: Math.min(1, Math.max(0, at.y + y)) });
    else return;
    event.preventDefault();
  };
  return (
    <Box
      ref={here}
      tabIndex={0}
      role="application"
      aria-label={`${asks[kind]}: a click, or arrow keys and Enter`}
      onKeyDown={moved}
      onPointerMove={(event) => {
        const box = event.currentTarget.getBoundingClientRect();
        setAt({ x: (event.clientX - box.left) / box.width, y: (event.clientY - box.top) / box.height });
      }}
      onClick={(event) => {
        const box = event.currentTarget.getBoundingClientRect();
        pointing.at((event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height);
      }}
      sx={{ position: "absolute", inset: 0, cursor: "crosshair" }}
    >
      <Box sx={{ position: "absolute", left: `${100 * at.x}%`, top: `${100 * at.y}%`, width: 22, height: 22, ml: "-11px", mt: "-11px", border: "2px solid #1c1c1c", outline: "1px solid #fff", pointerEvents: "none" }} />
      <Box sx={{ position: "absolute", left: 8, bottom: 8, px: 1, py: 0.5, bgcolor: "#fff", fontSize: 13 }}>{asks[kind]}. Escape gives it up.</Box>
    </Box>
  );
}

/** The live view; over it the placement guide, the framing box, and what is pointed at. */
export function LiveView({ canvas, guide, look, trouble, pointing, box }: Props) {
  const ground = useSurroundColour();
  const src = guide && (look.outline ? guide.outline : guide.view);
  return (
    <Box sx={{ flex: 1, minHeight: 0, bgcolor: ground, display: "grid", placeItems: "center", overflow: "hidden", containerType: "size" }}>
      <Box sx={{ position: "relative", aspectRatio: "3 / 2", width: "min(100cqw, 150cqh)", bgcolor: "#d8d8d8" }}>
        <Box component="canvas" ref={canvas} width={960} height={640} aria-label="Live view" role="img" sx={{ position: "absolute", inset: 0, width: "100%", height: "100%" }} />
        {src && !look.hidden && (
          <Box component="img" src={src} alt="Placement guide" draggable={false} sx={{ position: "absolute", inset: 0, width: "100%", height: "100%", opacity: look.opacity / 100, pointerEvents: "none" }} />
        )}
        {box}
        {pointing.near && <MarkSign mark={pointing.near} name="near" />}
        {pointing.far && <MarkSign mark={pointing.far} name="far" />}
        {pointing.kind && <Aim key={pointing.kind} pointing={pointing} kind={pointing.kind} />}
        {trouble && (
          <Box role="alert" sx={{ position: "absolute", inset: 0, display: "grid", placeItems: "center", bgcolor: "#e4e4e4", p: 4, textAlign: "center" }}>
            {trouble.charAt(0).toUpperCase() + trouble.slice(1)}.
          </Box>
        )}
      </Box>
    </Box>
  );
}
