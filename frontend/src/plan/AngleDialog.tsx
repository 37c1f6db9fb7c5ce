import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../kit/api/client";
import { Trouble } from "../kit/Trouble";

export function AngleDialog({ shootId, onClose }: { shootId: number; onClose: () => void }) {
  const client = useQueryClient();
  const [name, setName] = useState("");
  const add = api.useMutation("post", "/api/shoots/{shoot_id}/angles", {
    onSuccess: () => {
      void client.invalidateQueries();
      onClose();
    },
  });
  return (
    <Dialog open onClose={onClose}>
      <DialogTitle>Add an angle</DialogTitle>
      <DialogContent>
        <TextField label="Name of the angle" placeholder="side" value={name} onChange={(e) => setName(e.target.value)} autoFocus sx={{ mt: 1, minWidth: 320 }} />
        <Trouble fault={add.error} />
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" disabled={!name.trim() || add.isPending} onClick={() => add.mutate({ params: { path: { shoot_id: shootId } }, body: { name: name.trim() } })}>
          Add
        </Button>
      </DialogActions>
    </Dialog>
  );
}
