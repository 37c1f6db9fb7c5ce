import { Box, Button, Paper, TextField, Typography } from "@mui/material";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";

import { api, type ShootSummary } from "../kit/api/client";
import { plural } from "../kit/format";
import { Picture } from "../kit/Picture";
import { Empty, Trouble } from "../kit/Trouble";

function NewShoot() {
  const go = useNavigate();
  const [name, setName] = useState("");
  const [angles, setAngles] = useState("front");
  const create = api.useMutation("post", "/api/shoots", { onSuccess: (shoot) => void go(`/shoots/${shoot.id}/plan`) });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    create.mutate({ body: { name: name.trim(), angles: angles.split(",").map((angle) => angle.trim()).filter(Boolean) } });
  };
  return (
    <Paper component="form" onSubmit={submit} sx={{ p: 2, display: "flex", gap: 1.5, alignItems: "flex-start", flexWrap: "wrap" }}>
      <TextField label="Name of the shoot" value={name} onChange={(e) => setName(e.target.value)} required sx={{ minWidth: 280 }} slotProps={{ htmlInput: { maxLength: 120 } }} />
      <TextField label="Angles, with commas" value={angles} onChange={(e) => setAngles(e.target.value)} required sx={{ minWidth: 240 }} />
      <Button type="submit" variant="contained" disabled={!name.trim() || !angles.trim() || create.isPending} sx={{ height: 37 }}>
        Make a shoot
      </Button>
      <Box sx={{ width: "100%" }}>
        <Trouble fault={create.error} />
      </Box>
    </Paper>
  );
}

function ShootCard({ shoot }: { shoot: ShootSummary }) {
  const go = useNavigate();
  const { counts } = shoot;
  return (
    <Paper
      component="button"
      onClick={() => void go(`/shoots/${shoot.id}/plan`)}
      sx={{ p: 1.5, textAlign: "left", cursor: "pointer", font: "inherit", color: "inherit", "&:hover": { borderColor: "primary.main" } }}
    >
      <Box sx={{ display: "grid", gridTemplateColumns: "repeat(4, 1fr)", gap: "2px", mb: 1 }}>
        {[0, 1, 2, 3].map((i) => (
          <Picture key={i} src={shoot.cover[i] ?? null} alt="" />
        ))}
      </Box>
      <Typography variant="h2" noWrap>
        {shoot.name}
      </Typography>
      <Typography color="text.secondary">
        {plural(counts.shots, "shot")}, {counts.with_frame} with a frame, {counts.clean} clean
        {counts.look_again + counts.redo > 0 && `, ${counts.look_again + counts.redo} to look at again`}
      </Typography>
    </Paper>
  );
}

export function HomePage() {
  const { data, error, refetch } = api.useQuery("get", "/api/shoots");
  return (
    <Box component="main" sx={{ maxWidth: 1180, mx: "auto", p: 3 }}>
      <Typography variant="h1" sx={{ mb: 2 }}>
        True Backdrop
      </Typography>
      <NewShoot />
      <Trouble fault={error} onAgain={() => void refetch()} />
      {data?.length === 0 && <Empty title="No shoot yet">Give the first one a name and its angles above; then paste the product list.</Empty>}
      <Box sx={{ display: "grid", gridTemplateColumns: "repeat(auto-fill, minmax(340px, 1fr))", gap: 2, mt: 3 }}>
        {data?.map((shoot) => <ShootCard key={shoot.id} shoot={shoot} />)}
      </Box>
    </Box>
  );
}
