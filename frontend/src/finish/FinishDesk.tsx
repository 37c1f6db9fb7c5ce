import { Box, Button, MenuItem, Paper, Select, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";

import { api, type MarkName, type Shoot, type Shot } from "../kit/api/client";
import { keys } from "../kit/keys";
import { Picture } from "../kit/Picture";
import { VerdictMark } from "../kit/VerdictMark";
import { Measures } from "./Measures";
import { Settings } from "./Settings";
import { Square } from "./Square";

const marks: { name: MarkName; word: string }[] = [
  { name: "none", word: "No marks" },
  { name: "not_white", word: "Not white" },
  { name: "blown_out", word: "Blown out" },
];

function Neighbour({ shot, word, onGo }: { shot: Shot | undefined; word: string; onGo: (id: number) => void }) {
  return (
    <Box sx={{ width: "100%", alignSelf: "center" }}>
      {shot && (
        <Box component="button" onClick={() => onGo(shot.id)} aria-label={`${word}: ${shot.code}`} sx={{ border: 0, p: 0, width: "100%", bgcolor: "transparent", cursor: "pointer", font: "inherit", textAlign: "left" }}>
          <Picture src={shot.cut?.square ?? shot.frame?.preview ?? null} alt={shot.code} />
          <Box sx={{ display: "flex", justifyContent: "space-between", py: 0.5, fontSize: 12 }}>
            {shot.code}
            <VerdictMark verdict={shot.cut?.verdict ?? null} />
          </Box>
        </Box>
      )}
    </Box>
  );
}

export function FinishDesk({ shoot, shots, at, onGo }: { shoot: Shoot; shots: Shot[]; at: number; onGo: (id: number) => void }) {
  const shot = shots[at] as Shot;
  const { data: outlets = [] } = api.useQuery("get", "/api/outlets");
  const [chosen, setChosen] = useState(localStorage.getItem("outlet") ?? "pennywharf");
  const [mark, setMark] = useState<MarkName>("none");
  const outlet = outlets.some((spec) => spec.name === chosen) ? chosen : (outlets[0]?.name ?? "");
  const { data: detail } = api.useQuery("get", "/api/shots/{shot_id}", { params: { path: { shot_id: shot.id } } });
  const go = (by: number) => {
    const next = shots[at + by];
    if (next) onGo(next.id);
  };
  const toggle = (name: MarkName) => setMark((was) => (was === name ? "none" : name));
  useHotkeys(keys.next.keys, () => go(1));
  useHotkeys(keys.back.keys, () => go(-1));
  useHotkeys(keys.notWhite.keys, () => toggle("not_white"));
  useHotkeys(keys.blownOut.keys, () => toggle("blown_out"));
  const version = detail ? JSON.stringify([detail.treatment, detail.shot.frame?.id, shoot.backdrop?.id]) : null;
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "minmax(0, 1fr) 300px" }}>
      <Box sx={{ display: "flex", flexDirection: "column", minHeight: 0 }}>
        <Box sx={{ display: "flex", alignItems: "center", gap: 1.5, px: 2, py: 0.75 }}>
          <Typography variant="h1" noWrap>
            {shot.code} <Box component="span" sx={{ fontWeight: 400 }}>{shot.name}, {shot.angle}</Box>
          </Typography>
          <Box sx={{ flex: 1 }} />
          <ToggleButtonGroup size="small" exclusive value={mark} onChange={(_, next: MarkName | null) => next && setMark(next)} aria-label="Marks">
            {marks.map(({ name, word }) => (
              <ToggleButton key={name} value={name} sx={{ px: 1.25, py: 0.25 }}>
                {word}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
          <Select
            value={outlet}
            onChange={(event) => {
              localStorage.setItem("outlet", event.target.value);
              setChosen(event.target.value);
            }}
            inputProps={{ "aria-label": "Outlet" }}
            sx={{ minWidth: 150 }}
          >
            {outlets.map((spec) => (
              <MenuItem key={spec.name} value={spec.name}>
                {spec.title}
              </MenuItem>
            ))}
          </Select>
        </Box>
        <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "minmax(0, 1fr) minmax(0, 3fr) minmax(0, 1fr)", gap: 1.5, px: 2, pb: 1 }}>
          <Neighbour shot={shots[at - 1]} word="Shot before" onGo={onGo} />
          {outlet && version && <Square shotId={shot.id} outlet={outlet} mark={mark} version={version} />}
          <Neighbour shot={shots[at + 1]} word="Next shot" onGo={onGo} />
        </Box>
      </Box>
      <Paper sx={{ borderWidth: "0 0 0 1px", p: 2, overflow: "auto", display: "flex", flexDirection: "column", gap: 1.5 }}>
        {outlet && version && <Measures shotId={shot.id} outlet={outlet} version={version} />}
        {detail && <Settings shoot={shoot} shot={shot} treatment={detail.treatment} own={detail.shot.own_sections} />}
        <Box sx={{ flex: 1 }} />
        <Box sx={{ display: "flex", justifyContent: "space-between" }}>
          <Button onClick={() => go(-1)} disabled={at === 0}>
            Shot before
          </Button>
          <Typography sx={{ color: "text.secondary", fontSize: 12, alignSelf: "center" }}>
            {at + 1} of {shots.length}
          </Typography>
          <Button onClick={() => go(1)} disabled={at === shots.length - 1}>
            Next shot
          </Button>
        </Box>
      </Paper>
    </Box>
  );
}
