import { Box, MenuItem, Select, Slider, ToggleButton, Typography } from "@mui/material";

import { api } from "../../kit/api/client";
import type { GuideLook } from "./Tools";
import type { AtTable } from "./useTable";

/** No frame has this number. */
const NONE = 0;

interface Props {
  atTable: AtTable | null;
  look: GuideLook;
  onLook: (look: GuideLook) => void;
  onGuide: (frameId: number | null) => void;
}

/** The placement guide of the angle: how it is seen, and which take it is, of this shoot or of an earlier one. */
export function GuidePanel({ atTable, look, onLook, onGuide }: Props) {
  const { data: known = [] } = api.useQuery("get", "/api/guides");
  const guide = atTable?.guide ?? null;
  const others = known.filter((each) => each.guide.frame.id !== guide?.frame.id);
  const said = guide ? `Guide ${look.flicker ? "flickers" : `${look.opacity} %`}` : "No guide for this angle yet: make a take the guide, or use one from before";
  return (
    <Box>
      <Typography sx={{ fontSize: 12 }}>{said}</Typography>
      <Box sx={{ display: "flex", gap: 1.5, alignItems: "center", mb: 1, pl: 0.75 }}>
        <Slider size="small" aria-label="Guide opacity" disabled={!guide || look.flicker} value={look.opacity} onChange={(_, opacity) => onLook({ ...look, opacity })} />
        <ToggleButton value="outline" size="small" selected={look.outline} disabled={!guide} onChange={() => onLook({ ...look, outline: !look.outline })} sx={{ py: 0.25, textTransform: "none" }}>
          Outline
        </ToggleButton>
        <ToggleButton value="flicker" size="small" selected={look.flicker} disabled={!guide} onChange={() => onLook({ ...look, flicker: !look.flicker })} sx={{ py: 0.25, textTransform: "none" }}>
          Flicker
        </ToggleButton>
      </Box>
      <Select
        fullWidth
        disabled={!atTable?.shot || (others.length === 0 && !guide)}
        value={guide?.frame.id ?? NONE}
        inputProps={{ "aria-label": "Which take is the guide" }}
        onChange={(event) => onGuide(event.target.value === NONE ? null : event.target.value)}
        sx={{ bgcolor: "#fff" }}
      >
        <MenuItem value={NONE}>No guide</MenuItem>
        {guide && <MenuItem value={guide.frame.id}>{guide.frame.file_name}, in use</MenuItem>}
        {others.map((each) => (
          <MenuItem key={`${each.shoot} ${each.angle}`} value={each.guide.frame.id} sx={{ gap: 1 }}>
            <Box component="img" src={each.guide.frame.preview} alt="" sx={{ width: 48, height: 32, objectFit: "cover" }} />
            {each.angle}, {each.shoot}
          </MenuItem>
        ))}
      </Select>
    </Box>
  );
}
