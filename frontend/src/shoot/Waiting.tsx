import { Autocomplete, Box, Button, Paper, TextField, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";

import { api, type Frame, type Shoot, type Shot } from "../kit/api/client";
import { Picture } from "../kit/Picture";
import { Trouble } from "../kit/Trouble";

function WaitingFrame({ frame, shots }: { frame: Frame; shots: Shot[] }) {
  const client = useQueryClient();
  const change = api.useMutation("put", "/api/frames/{frame_id}", { onSuccess: () => void client.invalidateQueries() });
  const path = { path: { frame_id: frame.id } };
  return (
    <Box sx={{ display: "flex", gap: 1.5, alignItems: "center", py: 0.75 }}>
      <Box sx={{ width: 96 }}>
        <Picture src={frame.preview} alt={frame.file_name} ratio={1.5} />
      </Box>
      <Typography noWrap sx={{ width: 230 }} title={frame.file_name}>
        {frame.file_name}
      </Typography>
      <Autocomplete
        size="small"
        options={shots}
        getOptionLabel={(shot) => `${shot.code} ${shot.angle}`}
        getOptionKey={(shot) => shot.id}
        onChange={(_, shot) => shot && change.mutate({ params: path, body: { kind: "product", shot_id: shot.id } })}
        renderInput={(params) => <TextField {...params} label="Shot" />}
        sx={{ width: 240 }}
      />
      <Button onClick={() => change.mutate({ params: path, body: { kind: "backdrop", shot_id: null } })}>It is the backdrop frame</Button>
      <Trouble fault={change.error} />
    </Box>
  );
}

/** Frames whose names did not say which shot they are. */
export function Waiting({ shoot }: { shoot: Shoot }) {
  const { data: shots = [] } = api.useQuery("get", "/api/shoots/{shoot_id}/shots", { params: { path: { shoot_id: shoot.id } } });
  return (
    <Paper sx={{ p: 1.5 }}>
      <Typography variant="h2">Which shots are these?</Typography>
      {shoot.waiting.map((frame) => (
        <WaitingFrame key={frame.id} frame={frame} shots={shots} />
      ))}
    </Paper>
  );
}
