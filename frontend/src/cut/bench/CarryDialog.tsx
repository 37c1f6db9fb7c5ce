import { Box, Button, Checkbox, Dialog, DialogActions, DialogContent, DialogTitle, FormControlLabel, MenuItem, Select, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";

import { api, type Shot } from "../../kit/api/client";
import type { components } from "../../kit/api/schema";
import { plural } from "../../kit/format";
import { Trouble } from "../../kit/Trouble";

type Section = components["schemas"]["CarryRequest"]["sections"][number];

const parts: { name: Section; word: string }[] = [
  { name: "cut", word: "Backdrop match" },
  { name: "edge", word: "Edge" },
  { name: "clear", word: "Clear parts" },
  { name: "outlines", word: "Outlines" },
  { name: "touches", word: "Touches" },
];

const targetsOf: Record<string, { word: string; of: (shots: Shot[], from: Shot) => Shot[] }> = {
  all: { word: "all other shots", of: (shots) => shots },
  angle: { word: "all shots of this angle", of: (shots, from) => shots.filter((shot) => shot.angle === from.angle) },
  spin: { word: "all positions of this spin", of: (shots, from) => shots.filter((shot) => shot.code === from.code && shot.spin !== null && shot.spin === from.spin) },
  product: { word: "all angles of this product", of: (shots, from) => shots.filter((shot) => shot.code === from.code) },
  material: { word: "all of this material", of: (shots, from) => shots.filter((shot) => shot.material === from.material) },
};

/** Carry chosen parts of this cut to chosen shots: first what it would change, then one act that one click takes back. */
export function CarryDialog({ shoot, from, shots, onClose }: { shoot: number; from: Shot; shots: Shot[]; onClose: () => void }) {
  const client = useQueryClient();
  const [sections, setSections] = useState<Section[]>(["cut", "edge"]);
  const [to, setTo] = useState("angle");
  const [replace, setReplace] = useState(false);
  const targets = useMemo(() => (targetsOf[to]?.of(shots, from) ?? []).filter((shot) => shot.id !== from.id && shot.frame).map((shot) => shot.id), [to, shots, from]);
  const body = { targets, sections, replace_by_hand: replace };
  const path = { params: { path: { shot_id: from.id } } };
  const ready = targets.length > 0 && sections.length > 0;
  const preview = api.useQuery("post", "/api/shots/{shot_id}/carry-preview", { ...path, body }, { enabled: ready });
  const again = () => void client.invalidateQueries();
  const carry = api.useMutation("post", "/api/shots/{shot_id}/carry", { onSuccess: again });
  const back = api.useMutation("post", "/api/shoots/{shoot_id}/take-batch-back", { onSuccess: again });
  const changing = ready ? (preview.data ?? []).filter((each) => each.changes.length > 0) : [];
  const kept = ready ? (preview.data ?? []).filter((each) => each.kept.length > 0) : [];
  const word = (names: Section[]) => names.map((name) => parts.find((part) => part.name === name)?.word.toLowerCase() ?? name).join(", ");
  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth>
      <DialogTitle>
        Carry from {from.code} {from.angle}
      </DialogTitle>
      <DialogContent sx={{ display: "flex", flexDirection: "column", gap: 1 }}>
        <Box>
          {parts.map(({ name, word: said }) => (
            <FormControlLabel key={name} label={said} control={<Checkbox size="small" checked={sections.includes(name)} onChange={(_, on) => setSections(on ? [...sections, name] : sections.filter((each) => each !== name))} />} />
          ))}
        </Box>
        <Select value={to} inputProps={{ "aria-label": "To which shots" }} onChange={(event) => setTo(event.target.value)}>
          {Object.entries(targetsOf).map(([name, { word: said }]) => (
            <MenuItem key={name} value={name}>
              to {said}
            </MenuItem>
          ))}
        </Select>
        <FormControlLabel label="Also where touches or outlines were made by hand" control={<Checkbox size="small" checked={replace} onChange={(_, on) => setReplace(on)} />} />
        <Typography sx={{ fontWeight: 600 }}>
          {ready ? `${plural(changing.length, "shot")} will change${kept.length ? `; ${plural(kept.length, "shot")} keep what was made by hand there` : ""}.` : "No other shot with a frame is meant by that."}
        </Typography>
        <Box sx={{ maxHeight: 180, overflow: "auto", fontSize: 13 }}>
          {changing.map((each) => (
            <Box key={each.shot_id} sx={{ display: "flex", justifyContent: "space-between", borderBottom: 1, borderColor: "divider", py: 0.25 }}>
              <span>
                {each.code} {each.angle}
              </span>
              <span>{word(each.changes)}</span>
            </Box>
          ))}
        </Box>
        <Trouble fault={preview.error ?? carry.error ?? back.error} />
      </DialogContent>
      <DialogActions>
        {carry.data && !back.data && (
          <Button disabled={back.isPending} onClick={() => carry.data && back.mutate({ params: { path: { shoot_id: shoot } }, body: { batch: carry.data.batch } })}>
            Carried to {plural(carry.data.shots, "shot")}: take it back
          </Button>
        )}
        {back.data && <Typography sx={{ mr: "auto", ml: 2 }}>{plural(back.data.back, "shot")} as before.</Typography>}
        <Button onClick={onClose}>Close</Button>
        <Button variant="contained" disabled={!ready || changing.length === 0 || carry.isPending} onClick={() => carry.mutate({ ...path, body })}>
          Carry
        </Button>
      </DialogActions>
    </Dialog>
  );
}
