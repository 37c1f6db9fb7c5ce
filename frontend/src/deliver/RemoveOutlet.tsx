import { Button, Dialog, DialogActions, DialogContent, DialogContentText, DialogTitle } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";

import { api, type Outlet } from "../kit/api/client";
import { Trouble } from "../kit/Trouble";

/** Asks before an outlet made by hand goes. */
export function RemoveOutlet({ outlet, onClose, onRemoved }: { outlet: Outlet; onClose: () => void; onRemoved: () => void }) {
  const client = useQueryClient();
  const remove = api.useMutation("delete", "/api/outlets/{name}", {
    onSuccess: () => {
      onRemoved();
      void client.invalidateQueries();
    },
  });
  return (
    <Dialog open onClose={onClose}>
      <DialogTitle>Remove {outlet.title}?</DialogTitle>
      <DialogContent>
        <DialogContentText>Its rules, the pictures finished for it and the list of what was sent go, in every shoot. Files that were sent stay in their folders.</DialogContentText>
        <Trouble fault={remove.error} />
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose} autoFocus>
          Leave it
        </Button>
        <Button color="error" disabled={remove.isPending} onClick={() => remove.mutate({ params: { path: { name: outlet.name } } })}>
          Remove
        </Button>
      </DialogActions>
    </Dialog>
  );
}
