import { Box, Button, Slider, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";

import { keys } from "../../kit/keys";
import type { Tool } from "./Pointing";
import type { BenchWork } from "./useBench";

const tools: { name: Tool; word: string; key?: string }[] = [
  { name: "look", word: "Look around" },
  { name: "product", word: "Product here", key: keys.productHere.label },
  { name: "backdrop", word: "Backdrop here", key: keys.backdropHere.label },
  { name: "no_shadow", word: "Shadow away" },
  { name: "shadow", word: "Shadow back" },
];

interface Props {
  bench: BenchWork;
  tool: Tool;
  onTool: (tool: Tool) => void;
  brush: { width: number; reach: number };
  onBrush: (brush: { width: number; reach: number }) => void;
  shown: boolean;
  onShown: (on: boolean) => void;
}

function reachWord(reach: number): string {
  if (reach === 0) return "exactly under the brush";
  if (reach < 0.2) return "just around it";
  if (reach < 0.6) return "like pixels nearby follow";
  return reach < 1 ? "like pixels far around follow" : "the whole region";
}

/** Strokes by hand: what is there, and how far what they teach goes. */
export function TouchPanel({ bench, tool, onTool, brush, onBrush, shown, onShown }: Props) {
  const { detail, busy } = bench;
  const strokes = detail?.treatment.touches.strokes ?? [];
  const about = tool === "shadow" || tool === "no_shadow";
  return (
    <>
      <ToggleButtonGroup orientation="vertical" size="small" exclusive fullWidth value={tool} onChange={(_, next: Tool | null) => onTool(next ?? "look")} aria-label="What a stroke says">
        {tools.map(({ name, word, key }) => (
          <ToggleButton key={name} value={name} sx={{ justifyContent: "space-between", py: 0.4 }}>
            {word}
            <Box component="span" sx={{ color: "text.secondary", fontSize: 12 }}>
              {key}
            </Box>
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <Box>
        <Typography sx={{ fontSize: 12, color: "text.secondary" }}>Width of the brush: {(brush.width * 100).toFixed(1)} % of the frame</Typography>
        <Slider size="small" aria-label="Width of the brush" min={0.2} max={20} step={0.1} value={brush.width * 100} onChange={(_, v) => onBrush({ ...brush, width: (v as number) / 100 })} />
        <Typography sx={{ fontSize: 12, color: about ? "text.disabled" : "text.secondary" }}>Reach: {reachWord(brush.reach)}</Typography>
        <Slider size="small" disabled={about} aria-label="Reach of a touch" min={0} max={1} step={0.05} value={brush.reach} onChange={(_, v) => onBrush({ ...brush, reach: v as number })} />
      </Box>
      <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
        <Button disabled={strokes.length === 0 || busy} onClick={() => bench.set("last touch removed", { touches: { strokes: strokes.slice(0, -1) } })}>
          Remove the last touch
        </Button>
        <Button disabled={strokes.length === 0 || busy} onClick={() => bench.set("all touches removed", { touches: { strokes: [] } })}>
          Remove all {strokes.length || ""}
        </Button>
        <Button disabled={strokes.length === 0} onClick={() => onShown(!shown)}>
          {shown ? "Hide strokes" : "Show strokes"}
        </Button>
      </Box>
      <Typography sx={{ fontSize: 12, color: "text.secondary" }}>
        A wrong touch is cured by undo ({keys.undo.label}) or by the opposite one. Touches hold at every backdrop match. Without a pointer: arrows move the brush, Space touches there.
      </Typography>
    </>
  );
}
