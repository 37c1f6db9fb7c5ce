import { Box, Typography } from "@mui/material";

import { api } from "../kit/api/client";
import { Trouble } from "../kit/Trouble";

function Line({ name, value, said }: { name: string; value: string; said?: string }) {
  return (
    <>
      <Box component="dt" sx={{ color: "text.secondary" }} title={said}>
        {name}
      </Box>
      <Box component="dd" sx={{ m: 0, textAlign: "right", fontWeight: 600 }}>
        {value}
      </Box>
    </>
  );
}

/** Numbers of this square: coverage, white, blown out, and how far the product's own colour has moved. */
export function Measures({ shotId, outlet, version }: { shotId: number; outlet: string; version: string }) {
  const { data, error } = api.useQuery("get", "/api/shots/{shot_id}/measure", { params: { path: { shot_id: shotId }, query: { outlet } }, headers: { "x-version": version } }, { placeholderData: (before: unknown) => before as never });
  return (
    <Box>
      <Typography variant="h2">Measured</Typography>
      <Trouble fault={error} />
      <Box component="dl" sx={{ display: "grid", gridTemplateColumns: "1fr auto", rowGap: 0.5, mt: 0.5, mb: 0, minHeight: 84 }}>
        {data && (
          <>
            <Line name="Longer side" value={`${(100 * data.coverage).toFixed(1)} %`} said="The product's longer side as part of the square's" />
            <Line name="Not exact white" value={`${((100 * data.not_white) / data.side_px ** 2).toFixed(1)} % of the square`} said="Product, its soft edge and its shadow" />
            <Line name="Blown-out product" value={`${(100 * data.blown_out).toFixed(2)} %`} />
            <Line name="Colour moved by" value={`${data.colour_moved.toFixed(2)} ΔE`} said="CIEDE2000 against the frame, 95th percentile inside the product; below 1 is not seen" />
          </>
        )}
      </Box>
    </Box>
  );
}
