import { Box, MenuItem, Select, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";

import { api } from "../../kit/api/client";
import { Trouble } from "../../kit/Trouble";
import type { AtTable } from "./useTable";

/** No angle has this number. */
const ITS_OWN = 0;

/** Where only the product is turned, the camera stands as for another angle, and one empty set serves both. */
export function StandsAs({ atTable }: { atTable: AtTable }) {
  const client = useQueryClient();
  const change = api.useMutation("put", "/api/shots/{shot_id}/stands-as", { onSuccess: () => void client.invalidateQueries() });
  const { shot, other_views: others, stands_as: as } = atTable;
  if (!shot || others.length === 0) return null;
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1, mt: 0.5 }}>
      <Typography sx={{ fontSize: 12, whiteSpace: "nowrap" }}>For {shot.spin ?? shot.angle} the camera stands</Typography>
      <Select
        value={as ?? ITS_OWN}
        inputProps={{ "aria-label": "Where the camera stands" }}
        onChange={(event) => change.mutate({ params: { path: { shot_id: shot.id } }, body: { angle_id: event.target.value === ITS_OWN ? null : event.target.value } })}
        sx={{ fontSize: 12, flex: 1, minWidth: 0, bgcolor: "#fff", "& .MuiSelect-select": { py: 0.25 } }}
      >
        <MenuItem value={ITS_OWN}>in a place of its own</MenuItem>
        {others.map((view) => (
          <MenuItem key={view.angle_id} value={view.angle_id}>
            as for {view.name}
          </MenuItem>
        ))}
      </Select>
      <Trouble fault={change.error} />
    </Box>
  );
}
