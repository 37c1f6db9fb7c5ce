import { Box, Button, MenuItem, Select, TextField, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../../kit/api/client";
import { Trouble } from "../../kit/Trouble";

/** Camera, lamps and framing box under a name: recalled another day, locked against an accident. */
export function SetUps({ shootId }: { shootId: number }) {
  const client = useQueryClient();
  const renewed = { onSuccess: () => void client.invalidateQueries() };
  const { data: setups = [] } = api.useQuery("get", "/api/setups");
  const recall = api.useMutation("post", "/api/setups/{setup_id}/recall", renewed);
  const save = api.useMutation("post", "/api/setups", renewed);
  const change = api.useMutation("put", "/api/setups/{setup_id}", renewed);
  const [chosen, setChosen] = useState<number | "">("");
  const [name, setName] = useState("");
  const setup = setups.find((each) => each.id === chosen);
  const path = setup && { params: { path: { setup_id: setup.id } } };
  return (
    <Box>
      <Typography sx={{ fontSize: 12, mb: 0.5 }}>Camera, lamps and framing box under one name.</Typography>
      <Box sx={{ display: "flex", gap: 1, alignItems: "center", flexWrap: "wrap" }}>
        <Select
          displayEmpty
          value={setup ? chosen : ""}
          inputProps={{ "aria-label": "Set-up" }}
          onChange={(event) => {
            const id = Number(event.target.value);
            setChosen(id);
            recall.mutate({ params: { path: { setup_id: id }, query: { shoot_id: shootId } } });
          }}
          sx={{ minWidth: 150, bgcolor: "#fff" }}
        >
          <MenuItem value="" disabled>
            {setups.length ? "Recall ..." : "None saved yet"}
          </MenuItem>
          {setups.map((each) => (
            <MenuItem key={each.id} value={each.id}>
              {each.name}
              {each.locked && " (locked)"}
            </MenuItem>
          ))}
        </Select>
        {path && (
          <>
            <Button onClick={() => change.mutate({ ...path, body: { locked: !setup.locked, renew: false } })}>{setup.locked ? "Unlock" : "Lock"}</Button>
            <Button disabled={setup.locked} onClick={() => change.mutate({ ...path, body: { renew: true, shoot_id: shootId } })}>
              Renew
            </Button>
          </>
        )}
        <TextField value={name} onChange={(event) => setName(event.target.value)} placeholder="Name for these settings" slotProps={{ htmlInput: { "aria-label": "Name of the set-up" } }} sx={{ width: 176, bgcolor: "#fff" }} />
        <Button variant="outlined" disabled={!name.trim()} onClick={() => save.mutate({ body: { name, shoot_id: shootId } }, { onSuccess: (made) => (setName(""), setChosen(made.id)) })}>
          Save
        </Button>
      </Box>
      <Trouble fault={recall.error ?? save.error ?? change.error} />
    </Box>
  );
}
