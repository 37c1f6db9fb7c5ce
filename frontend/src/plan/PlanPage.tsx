import { Box, Button, Typography } from "@mui/material";
import { useState } from "react";

import { api, type Shoot } from "../kit/api/client";
import { RunButton } from "../kit/RunButton";
import { ShootFrame } from "../kit/ShootFrame";
import { Empty, Trouble } from "../kit/Trouble";
import { AngleDialog } from "./AngleDialog";
import { Board } from "./Board";
import { ProductListDialog } from "./ProductListDialog";

function Plan({ shoot }: { shoot: Shoot }) {
  const [listing, setListing] = useState(false);
  const [angling, setAngling] = useState(false);
  const { data: shots, error, refetch } = api.useQuery("get", "/api/shoots/{shoot_id}/shots", { params: { path: { shoot_id: shoot.id } } });
  return (
    <>
      <Box sx={{ display: "flex", alignItems: "center", gap: 1.5, px: 2, py: 1.25 }}>
        <Typography variant="h1" sx={{ mr: 1 }}>
          Shot board
        </Typography>
        <Button variant="outlined" onClick={() => setListing(true)}>
          Add products
        </Button>
        <Button variant="outlined" onClick={() => setAngling(true)}>
          Add a view
        </Button>
        <Box sx={{ flex: 1 }} />
        <RunButton shoot={shoot} />
      </Box>
      <Box sx={{ px: 2 }}>
        <Trouble fault={error} onAgain={() => void refetch()} />
      </Box>
      {shots?.length === 0 ? (
        <Empty title="No products yet">
          Paste or drop the product list: one line a product with its code, name and kind of material.
          <Box sx={{ mt: 2 }}>
            <Button variant="contained" onClick={() => setListing(true)}>
              Add products
            </Button>
          </Box>
        </Empty>
      ) : (
        shots && <Board shoot={shoot} shots={shots} />
      )}
      {listing && <ProductListDialog shootId={shoot.id} onClose={() => setListing(false)} />}
      {angling && <AngleDialog shootId={shoot.id} shots={shots ?? []} onClose={() => setAngling(false)} />}
    </>
  );
}

export function PlanPage() {
  return <ShootFrame here="plan">{(shoot) => <Plan shoot={shoot} />}</ShootFrame>;
}
