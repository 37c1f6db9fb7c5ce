import { Box, Button, Typography } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";

import { api, bringBack, type Shot } from "../../kit/api/client";
import { Trouble } from "../../kit/Trouble";

/** A hard one leaves for a retoucher and comes back as a matte or a finished picture; then it is never overwritten by a run. */
export function OutAndBack({ shot }: { shot: Shot }) {
  const client = useQueryClient();
  const picker = useRef<HTMLInputElement>(null);
  const again = () => void client.invalidateQueries();
  const back = useMutation({ mutationFn: (file: File) => bringBack(shot.id, file), onSuccess: again });
  const give = api.useMutation("delete", "/api/shots/{shot_id}/back", { onSuccess: again });
  const made = shot.cut?.hand_made === true;
  return (
    <>
      <Typography sx={{ fontWeight: 600 }}>{made ? "This cut was made by hand" : "Out to a retoucher"}</Typography>
      <Typography sx={{ fontSize: 12.5, color: "text.secondary" }}>
        {made ? "A matte that came back stands in the place of the program's own. No run changes it." : "OpenRaster has product, shadow and backdrop as layers; the matte has 16 bits. Both know their shot."}
      </Typography>
      <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
        <Button variant="outlined" component="a" href={`/api/shots/${shot.id}/out.ora`} download>
          Layers (.ora)
        </Button>
        <Button variant="outlined" component="a" href={`/api/shots/${shot.id}/out-matte.png`} download>
          Matte (.png)
        </Button>
      </Box>
      <Typography sx={{ fontWeight: 600, mt: 1 }}>Back</Typography>
      <Typography sx={{ fontSize: 12.5, color: "text.secondary" }}>The .ora with its layer “product”, a grey matte, or a picture with transparency, at the frame's own size.</Typography>
      <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
        <Button variant="contained" disabled={back.isPending} onClick={() => picker.current?.click()}>
          {back.isPending ? "Reading ..." : "Bring it back"}
        </Button>
        {made && (
          <Button disabled={give.isPending} onClick={() => give.mutate({ params: { path: { shot_id: shot.id } } })}>
            The program's own cut again
          </Button>
        )}
        <input
          ref={picker}
          type="file"
          aria-label="File from the retoucher"
          accept=".ora,.png,.tif,.tiff"
          hidden
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) back.mutate(file);
            event.target.value = "";
          }}
        />
      </Box>
      <Trouble fault={back.error ?? give.error} />
    </>
  );
}
