import { Box } from "@mui/material";
import { type PointerEvent, useRef, useState, type WheelEvent } from "react";

import type { DrawnShape, Touch } from "../../kit/api/client";
import { Corners } from "./Corners";
import { type FoundBox, inFrame, withPoints } from "./corners.logic";
import { asParts, type Point, type Size, type Stage, toFrame, toScreen } from "./stage.logic";

export type Tool = "look" | "product" | "backdrop" | "shadow" | "no_shadow" | "outline";

interface Props {
  stage: Stage;
  frame: Size;
  tool: Tool;
  brush: { width: number; reach: number };
  /** Corners of an outline that is being drawn, in frame pixels. */
  corners: Point[];
  shapes: DrawnShape[];
  /** Around the product as it was found: what outlines that follow it lie in. */
  found: FoundBox | null;
  /** The lines that outlines are cut along, in parts of the frame; those of curves are drawn, as soon as they are known. */
  curves: number[][][];
  shown: { touches: Touch[] | null };
  pen: Point | null;
  onPan: (by: Point) => void;
  onZoom: (by: 1 | -1, at: Point) => void;
  onToggle: (at: Point) => void;
  onStroke: (points: [number, number][]) => void;
  onCorner: (at: Point) => void;
  onClose: () => void;
  onReshape: (number: number, shape: DrawnShape) => void;
}

/** How a stroke of a kind is drawn: by line and dash, not by colour. */
const lines: Record<Touch["kind"], { ink: string; casing: string; dash?: string }> = {
  product: { ink: "#fff", casing: "#111" },
  backdrop: { ink: "#111", casing: "#fff", dash: "9 5" },
  shadow: { ink: "#777", casing: "#fff" },
  no_shadow: { ink: "#fff", casing: "#777", dash: "3 5" },
};

function path(points: Point[]): string {
  return points.map((at, k) => `${k ? "L" : "M"}${at.x.toFixed(1)} ${at.y.toFixed(1)}`).join("") + (points.length === 1 ? "l0.1 0" : "");
}

function Line({ points, kind, wide }: { points: Point[]; kind: Touch["kind"]; wide: number }) {
  const { ink, casing, dash } = lines[kind];
  return (
    <g fill="none" strokeLinecap="round" strokeLinejoin="round">
      <path d={path(points)} stroke={ink} strokeOpacity={0.25} strokeWidth={wide} />
      <path d={path(points)} stroke={casing} strokeWidth={4} />
      <path d={path(points)} stroke={ink} strokeWidth={2} strokeDasharray={dash} />
    </g>
  );
}

/** What the pointer does on the picture: look around, touch, or draw an outline; and what was drawn so far. */
export function Pointing({ stage, frame, tool, brush, corners, shapes, found, curves, shown, pen, onPan, onZoom, onToggle, onStroke, onCorner, onClose, onReshape }: Props) {
  const [stroke, setStroke] = useState<Point[]>([]);
  const [hover, setHover] = useState<Point | null>(null);
  const from = useRef<Point | null>(null);
  const here = (event: PointerEvent | WheelEvent | React.MouseEvent): Point => {
    const box = event.currentTarget.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  };
  const placed = (points: number[][]) => points.map(([x = 0, y = 0]) => toScreen(stage, { x: x * frame.width, y: y * frame.height }));
  const looking = tool === "look";
  const touching = !looking && tool !== "outline";
  const wide = brush.width * Math.max(frame.width, frame.height) * stage.scale;

  const pressed = (event: PointerEvent) => {
    if (event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    from.current = here(event);
    if (touching && !event.shiftKey) setStroke([here(event)]);
  };
  const moved = (event: PointerEvent) => {
    const at = here(event);
    setHover(at);
    if (!from.current) return;
    if (stroke.length) {
      const last = stroke[stroke.length - 1];
      if (last && Math.hypot(at.x - last.x, at.y - last.y) >= 3) setStroke([...stroke, at]);
    } else if (looking || event.shiftKey) {
      onPan({ x: at.x - from.current.x, y: at.y - from.current.y });
      from.current = at;
    }
  };
  const released = (event: PointerEvent) => {
    if (stroke.length) onStroke(stroke.map((at) => asParts(frame, toFrame(stage, at))));
    else if (tool === "outline" && from.current && !event.shiftKey) {
      const at = here(event);
      const first = corners[0] && toScreen(stage, corners[0]);
      if (first && corners.length > 2 && Math.hypot(first.x - at.x, first.y - at.y) < 9) onClose();
      else onCorner(toFrame(stage, at));
    }
    from.current = null;
    setStroke([]);
  };
  const cornersHere = corners.map((at) => toScreen(stage, at));
  const aim = pen ? toScreen(stage, pen) : hover;
  return (
    <Box
      data-testid="pointing"
      onPointerDown={pressed}
      onPointerMove={moved}
      onPointerUp={released}
      onPointerLeave={() => setHover(null)}
      onDoubleClick={(event) => looking && onToggle(toFrame(stage, here(event)))}
      onWheel={(event) => onZoom(event.deltaY < 0 ? 1 : -1, toFrame(stage, here(event)))}
      sx={{ position: "absolute", inset: 0, cursor: looking ? "grab" : tool === "outline" ? "crosshair" : "none" }}
    >
      <svg width="100%" height="100%" style={{ position: "absolute", inset: 0, pointerEvents: "none" }} aria-hidden>
        {shown.touches?.map((touch, k) => (
          <Line key={k} kind={touch.kind} wide={0} points={placed(touch.points)} />
        ))}
        {shapes.map((shape, k) => (
          <path key={k} d={path(placed((shape.curved && curves[k]) || inFrame(shape, found))) + "Z"} fill="none" stroke="#111" strokeWidth={1.5} strokeDasharray="6 4" style={{ filter: "drop-shadow(0 0 1px #fff)" }} />
        ))}
        {stroke.length > 0 && touching && <Line points={stroke} kind={tool} wide={wide} />}
        {cornersHere.length > 0 && (
          <g fill="none" stroke="#111" strokeWidth={1.5} style={{ filter: "drop-shadow(0 0 1px #fff)" }}>
            <path d={path(aim && tool === "outline" ? [...cornersHere, aim] : cornersHere)} />
            {cornersHere.map((at, k) => (
              <rect key={k} x={at.x - 4} y={at.y - 4} width={8} height={8} fill={k ? "#fff" : "#1d5c68"} />
            ))}
          </g>
        )}
        {touching && aim && (
          <g fill="none">
            <circle cx={aim.x} cy={aim.y} r={Math.max(2, wide / 2)} stroke="#fff" strokeWidth={3} />
            <circle cx={aim.x} cy={aim.y} r={Math.max(2, wide / 2)} stroke="#111" strokeWidth={1} strokeDasharray={lines[tool].dash} />
          </g>
        )}
        {tool === "outline" && pen && <path d={`M${toScreen(stage, pen).x - 8} ${toScreen(stage, pen).y}h16m-8 -8v16`} stroke="#111" strokeWidth={1.5} />}
      </svg>
      {looking && shapes.map((shape, k) => !shape.locked && <Corners key={k} stage={stage} frame={frame} number={k + 1} points={inFrame(shape, found)} onMoved={(points) => onReshape(k, withPoints(shape, points, found))} />)}
    </Box>
  );
}
