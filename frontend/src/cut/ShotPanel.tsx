import { Box, Button, MenuItem, Select, Slider, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";

import { api, type Material, type Shoot } from "../kit/api/client";
import type { components } from "../kit/api/schema";
import { plural, sentence } from "../kit/format";
import { Trouble } from "../kit/Trouble";
import { VerdictMark } from "../kit/VerdictMark";
import { OwnChart } from "./OwnChart";

type Detail = components["schemas"]["ShotDetail"];
type Answer = components["schemas"]["CutAnswer"];

const materials: { name: Material; word: string }[] = [
  { name: "auto", word: "Find out by itself" },
  { name: "solid", word: "Solid" },
  { name: "strands", word: "Strands: hair, bristles, fringe" },
  { name: "clear", word: "Clear: glass" },
  { name: "pale", word: "Pale: white on white" },
];

interface Props {
  shoot: Shoot;
  detail: Detail;
  answer: Answer | undefined;
  value: number;
  moved: boolean;
  onMove: (value: number) => void;
  onKeep: (value: number | null) => void;
  onUndo: () => void;
  busy: boolean;
}

function Kind({ detail }: { detail: Detail }) {
  const client = useQueryClient();
  const change = api.useMutation("put", "/api/shots/{shot_id}/treatment", { onSuccess: () => void client.invalidateQueries() });
  return (
    <Box>
      <Typography component="label" htmlFor="material" sx={{ display: "block", color: "text.secondary", mb: 0.25 }}>
        Kind of material
      </Typography>
      <Select
        id="material"
        fullWidth
        value={detail.treatment.cut.material}
        inputProps={{ "aria-label": "Kind of material" }}
        onChange={(event) => change.mutate({ params: { path: { shot_id: detail.shot.id } }, body: { cut: { match: detail.treatment.cut.match ?? null, material: event.target.value as Material } } })}
      >
        {materials.map(({ name, word }) => (
          <MenuItem key={name} value={name}>
            {word}
          </MenuItem>
        ))}
      </Select>
      <Trouble fault={change.error} />
    </Box>
  );
}

function Carry({ shoot, detail }: { shoot: Shoot; detail: Detail }) {
  const client = useQueryClient();
  const { data: shots = [] } = api.useQuery("get", "/api/shoots/{shoot_id}/shots", { params: { path: { shoot_id: shoot.id } } });
  const carry = api.useMutation("post", "/api/shots/{shot_id}/carry", { onSuccess: () => void client.invalidateQueries() });
  const others = shots.filter((shot) => shot.id !== detail.shot.id && !shot.own_sections.includes("cut")).map((shot) => shot.id);
  const back = api.useMutation("post", "/api/shots/{shot_id}/take-back", { onSuccess: () => void client.invalidateQueries() });
  const { data: revisions = [] } = api.useQuery("get", "/api/shots/{shot_id}/revisions", { params: { path: { shot_id: detail.shot.id } } });
  return (
    <Box sx={{ borderTop: 1, borderColor: "divider", pt: 1, display: "flex", gap: 0.5, flexWrap: "wrap" }}>
      <Button disabled={others.length === 0 || carry.isPending} onClick={() => carry.mutate({ params: { path: { shot_id: detail.shot.id } }, body: { targets: others, sections: ["cut"] } })}>
        Carry this cut to {plural(others.length, "other shot")}
      </Button>
      <Button
        disabled={!detail.can_undo || back.isPending}
        onClick={() => back.mutate({ params: { path: { shot_id: detail.shot.id } }, body: { revision: revisions[1]?.id ?? 0 } })}
      >
        Take the last change back
      </Button>
      <Trouble fault={carry.error ?? back.error} />
    </Box>
  );
}

/** What the bench says and asks about one shot. */
export function ShotPanel({ shoot, detail, answer, value, moved, onMove, onKeep, onUndo, busy }: Props) {
  const own = detail.shot.own_sections.includes("cut");
  return (
    <>
      <Box>
        <Typography variant="h1">{detail.shot.code}</Typography>
        <Typography>
          {detail.shot.name}, {detail.shot.angle}
        </Typography>
      </Box>
      <Box sx={{ minHeight: 64 }}>
        {answer && <VerdictMark verdict={answer.verdict} />}
        {answer?.reasons.map((reason) => (
          <Typography key={reason} sx={{ mt: 0.5 }}>
            {sentence(reason)}
          </Typography>
        ))}
      </Box>
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
          {own ? "This shot has a value of its own." : "This shot follows the set."} Proposed: {answer?.proposed ?? "..."}.
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
      <Kind detail={detail} />
      <Carry shoot={shoot} detail={detail} />
    </>
  );
}
