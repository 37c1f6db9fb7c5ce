import { Box } from "@mui/material";
import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";

import { type Point, type Size, type Stage, toFrame, toScreen } from "./stage.logic";

interface Props {
  stage: Stage;
  frame: Size;
  number: number;
  /** Corners in parts of the frame. */
  points: [number, number][];
  onMoved: (points: [number, number][]) => void;
}

const steps: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

/** A moved corner is stored when the keys have rested so long. */
const restMs = 300;

/** Handles on the corners of an outline: drag one, or reach it with Tab and move it with the arrows; Delete takes it away. */
export function Corners({ stage, frame, number, points, onMoved }: Props) {
  const [dragged, setDragged] = useState<{ corner: number; at: Point } | null>(null);
  const from = useRef<Point>({ x: 0, y: 0 });
  // Where the corners are until what was stored comes back.
  const [ahead, setAhead] = useState<[number, number][] | null>(null);
  const stored = JSON.stringify(points);
  useEffect(() => setAhead(null), [stored]);
  useEffect(() => {
    if (!ahead) return undefined;
    const timer = setTimeout(() => onMoved(ahead), restMs);
    return () => clearTimeout(timer);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a new function is no new move
  }, [ahead]);
  const shown = ahead ?? points;
  const onScreen = ([x, y]: [number, number]) => toScreen(stage, { x: x * frame.width, y: y * frame.height });
  const asPart = (at: Point): [number, number] => {
    const to = toFrame(stage, at);
    return [to.x / frame.width, to.y / frame.height];
  };
  const replaced = (corner: number, to: [number, number]) => shown.map((old, k) => (k === corner ? to : old));
  const pressed = (event: KeyboardEvent, corner: number) => {
    const by = steps[event.key];
    const [x, y] = shown[corner] ?? [0, 0];
    if (by) {
      const long = (event.shiftKey ? 10 : 1) / stage.scale;
      setAhead(replaced(corner, [x + (by[0] * long) / frame.width, y + (by[1] * long) / frame.height]));
    } else if (event.key === "Delete" && shown.length > 3) setAhead(shown.filter((_, k) => k !== corner));
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return shown.map((point, corner) => {
    const at = dragged?.corner === corner ? dragged.at : onScreen(point);
    return (
      <Box
        key={corner}
        component="button"
        type="button"
        aria-label={`Corner ${corner + 1} of outline ${number}`}
        onKeyDown={(event: KeyboardEvent) => pressed(event, corner)}
        onPointerDown={(event: PointerEvent) => {
          event.stopPropagation();
          event.currentTarget.setPointerCapture(event.pointerId);
          from.current = { x: event.clientX - at.x, y: event.clientY - at.y };
          setDragged({ corner, at });
        }}
        onPointerMove={(event: PointerEvent) => {
          event.stopPropagation();
          if (dragged?.corner === corner) setDragged({ corner, at: { x: event.clientX - from.current.x, y: event.clientY - from.current.y } });
        }}
        onPointerUp={(event: PointerEvent) => {
          event.stopPropagation();
          const start = onScreen(point);
          if (dragged && Math.hypot(dragged.at.x - start.x, dragged.at.y - start.y) > 1) setAhead(replaced(corner, asPart(dragged.at)));
          setDragged(null);
        }}
        sx={{ position: "absolute", left: at.x - 7, top: at.y - 7, width: 14, height: 14, p: 0, bgcolor: "#fff", border: "2px solid #1d5c68", borderRadius: "3px", cursor: "move", touchAction: "none" }}
      />
    );
  });
}
