import { Box, Button, Checkbox, FormControlLabel, MenuItem, Select, Slider, Typography } from "@mui/material";

import type { Material } from "../../kit/api/client";
import type { components } from "../../kit/api/schema";
import { OwnChart } from "./OwnChart";
import type { BenchWork } from "./useBench";

const materials: { name: Material; word: string }[] = [
  { name: "auto", word: "Find out by itself" },
  { name: "solid", word: "Solid" },
  { name: "strands", word: "Strands: hair, bristles, fringe" },
  { name: "clear", word: "Clear: glass" },
  { name: "pale", word: "Pale: white on white" },
];

interface ChoiceProps {
  material: Material;
  planned: string;
  seems: Material | null;
  onChoose: (material: Material) => void;
}

/** What the product is made of, and what it looks like where nobody said. */
function MaterialChoice({ material, planned, seems, onChoose }: ChoiceProps) {
  const like = materials.find(({ name }) => name === seems);
  // What the plan names stands where the bench says nothing.
  const inPlan = planned === "auto" ? undefined : materials.find(({ name }) => name === planned);
  return (
    <Box>
      <Typography component="label" htmlFor="material" sx={{ display: "block", color: "text.secondary", mb: 0.25 }}>
        Kind of material
      </Typography>
      <Select id="material" fullWidth value={material} inputProps={{ "aria-label": "Kind of material" }} onChange={(event) => onChoose(event.target.value as Material)}>
        {materials.map(({ name, word }) => (
          <MenuItem key={name} value={name}>
            {name === "auto" && inPlan ? `As in the plan (${inPlan.name})` : word}
          </MenuItem>
        ))}
      </Select>
      {like && (
        <Typography component="div" sx={{ fontSize: 12, color: "text.secondary", mt: 0.25 }}>
          Looks like: {like.word}
          {like.name !== "solid" && (
            <Button size="small" sx={{ ml: 1 }} onClick={() => onChoose(like.name)}>
              Say so
            </Button>
          )}
        </Typography>
      )}
    </Box>
  );
}

interface Props {
  bench: BenchWork;
  answer: components["schemas"]["CutAnswer"] | undefined;
  value: number;
  moved: boolean;
  onMove: (value: number) => void;
  onKeep: (value: number | null) => void;
  onUndo: () => void;
}

/** Where glass was named, or found. */
function ClearParts({ bench }: { bench: BenchWork }) {
  const clear = bench.detail?.treatment.clear;
  if (!clear) return null;
  const rows = [
    { name: "opacity", word: "Opacity of clear parts" },
    { name: "sensitivity", word: "How dark glass may be" },
    { name: "smoothing", word: "Softness of their edge" },
  ] as const;
  return (
    <Box>
      {rows.map(({ name, word }) => (
        <Box key={name}>
          <Typography sx={{ fontSize: 12, color: "text.secondary" }}>{word}</Typography>
          <Slider key={clear[name]} size="small" aria-label={word} min={0} max={1} step={0.05} defaultValue={clear[name]} onChangeCommitted={(_, v) => bench.set(word.toLowerCase(), { clear: { ...clear, [name]: v as number } })} />
        </Box>
      ))}
    </Box>
  );
}

/** Backdrop match of this shot, and what its product is made of. */
export function MatchPanel({ bench, answer, value, moved, onMove, onKeep, onUndo }: Props) {
  const { detail, busy } = bench;
  if (!detail) return null;
  const own = detail.shot.own_sections.includes("cut");
  const { cut } = detail.treatment;
  return (
    <>
      <Box>
        <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "baseline" }}>
          <Typography variant="h2">Backdrop match</Typography>
          <Typography sx={{ fontSize: 22, fontWeight: 650 }}>{Math.round(value)}</Typography>
        </Box>
        {answer && <OwnChart trials={answer.trials} value={value} />}
        <Box sx={{ px: "calc(8px + 4.3%)" }}>
          <Slider aria-label="Backdrop match" min={0} max={100} value={value} onChange={(_, next) => onMove(next as number)} />
        </Box>
        <Typography sx={{ fontSize: 12, color: "text.secondary", mt: -0.5 }}>
          {own && cut.match !== null ? "This shot has a value of its own." : "This shot follows the set."} Proposed: {answer ? `${answer.proposed}.` : "…"}
        </Typography>
      </Box>
      <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
        <Button variant="contained" disabled={!moved || busy} onClick={() => onKeep(Math.round(value))}>
          Keep for this shot
        </Button>
        <Button disabled={!moved} onClick={onUndo}>
          Leave as it was
        </Button>
        {own && !moved && (
          <Button disabled={busy} onClick={() => onKeep(null)}>
            Follow the set again
          </Button>
        )}
      </Box>
      <MaterialChoice material={cut.material} planned={detail.shot.material} seems={answer?.seems ?? null} onChoose={(material) => bench.set(`material ${material}`, { cut: { ...cut, material } })} />
      <FormControlLabel
        control={<Checkbox size="small" checked={cut.silhouette} onChange={(_, on) => bench.set(on ? "with its silhouette" : "without its silhouette", { cut: { ...cut, silhouette: on } })} />}
        label="Use its silhouette frame, if there is one"
        slotProps={{ typography: { sx: { fontSize: 13 } } }}
      />
      {answer?.glass && <ClearParts bench={bench} />}
    </>
  );
}
