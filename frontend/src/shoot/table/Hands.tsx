import { Box, Button, Drawer, MenuItem, Select, Slider, Typography } from "@mui/material";
import { useEffect, useState } from "react";

import { api } from "../../kit/api/client";
import type { components } from "../../kit/api/schema";
import { Trouble } from "../../kit/Trouble";

type TableState = components["schemas"]["HandsTable"];

const NOTHING = "nothing";
const moves = [
  { key: "right", label: "Left and right", min: -0.12, max: 0.12, step: 0.001, show: (v: number) => `${(100 * v).toFixed(1)} % of width` },
  { key: "down", label: "Back and forward", min: -0.1, max: 0.06, step: 0.001, show: (v: number) => `${(100 * v).toFixed(1)} % of height` },
  { key: "turn", label: "Turn", min: -12, max: 12, step: 0.1, show: (v: number) => `${v.toFixed(1)}°` },
  { key: "size", label: "Nearer and farther", min: 0.85, max: 1.12, step: 0.002, show: (v: number) => `${(100 * v).toFixed(1)} %` },
] as const;

const faults = [
  { label: "Warm the lamps by 3 %", faults: { lamp_warmth: 0.03 } },
  { label: "A front lamp fails", faults: { front_lamp_lost: 0.6 } },
  { label: "Nudge the camera by 2 px", table: { nudge: [2 / 1500, 0] } },
  { label: "Pull the cable for 3 s", faults: { unplugged_s: 3 } },
  { label: "Card is full", faults: { card_files: 0 } },
] as const;

const cured = { faults: { lamp_warmth: 0, front_lamp_lost: 0, card_files: null, slow_s: 0 }, table: { nudge: [0, 0] } };

/** Hands and faults of the simulated studio: what a real one has no screen for. */
export function Hands({ open, onClose, code, angle }: { open: boolean; onClose: () => void; code: string | undefined; angle: string | undefined }) {
  const order = api.useMutation("post", "/api/studio/hands");
  const { mutate } = order;
  const [moving, setMoving] = useState<Partial<TableState>>({});
  useEffect(() => {
    if (open) mutate({ body: { table: {}, faults: {} } });
  }, [open, mutate]);
  const hands = order.data;
  const table = hands ? { ...hands.table, ...moving } : undefined;
  const put = (next: Partial<TableState>) => {
    setMoving({});
    mutate({ body: { table: next, faults: {} } });
  };
  const here = hands?.products[hands.table.angle] ?? [];
  const anew = { right: 0, down: 0, turn: 0, size: 1 };
  const canPut = code !== undefined && angle !== undefined && hands?.products[angle]?.includes(code);
  return (
    <Drawer anchor="right" variant="persistent" open={open} slotProps={{ paper: { sx: { width: 340, p: 2, borderLeft: "3px double #8a8a8a", bgcolor: "#ededed" } } }}>
      <Typography variant="h2">Hands in the simulated studio</Typography>
      <Typography sx={{ fontSize: 12, color: "text.secondary", mb: 1.5 }}>With a real camera these are your own hands, and this drawer is not there.</Typography>
      <Trouble fault={order.error} />
      {table && (
        <>
          <Typography sx={{ fontSize: 12 }}>Camera stands</Typography>
          <Select fullWidth value={table.angle} inputProps={{ "aria-label": "Angle" }} onChange={(event) => put({ angle: event.target.value, code: hands?.products[event.target.value]?.includes(table.code ?? "") ? table.code : null })} sx={{ bgcolor: "#fff", mb: 1 }}>
            {Object.keys(hands?.products ?? {}).map((name) => (
              <MenuItem key={name} value={name}>
                {name}
              </MenuItem>
            ))}
          </Select>
          <Typography sx={{ fontSize: 12 }}>On the table</Typography>
          <Select fullWidth value={table.code ?? NOTHING} inputProps={{ "aria-label": "On the table" }} onChange={(event) => put({ code: event.target.value === NOTHING ? null : event.target.value, ...anew })} sx={{ bgcolor: "#fff", mb: 1 }}>
            <MenuItem value={NOTHING}>Nothing: the empty set</MenuItem>
            {here.map((each) => (
              <MenuItem key={each} value={each}>
                {each}
              </MenuItem>
            ))}
          </Select>
          <Box sx={{ display: "flex", gap: 1, mb: 1.5 }}>
            <Button variant="outlined" disabled={!canPut} onClick={() => put({ code, angle, right: 0.021, down: -0.006, turn: 1.4, size: 1 })}>
              Put the named product down
            </Button>
            <Button onClick={() => put({ code: null, ...anew })}>Take away</Button>
          </Box>
          {moves.map(({ key, label, min, max, step, show }) => (
            <Box key={key} sx={{ px: 0.5 }}>
              <Typography sx={{ fontSize: 12, display: "flex", justifyContent: "space-between" }}>
                <span>{label}</span>
                <span>{show(table[key])}</span>
              </Typography>
              <Slider size="small" aria-label={label} min={min} max={max} step={step} value={table[key]} onChange={(_, value) => setMoving({ ...moving, [key]: value })} onChangeCommitted={(_, value) => put({ [key]: value })} disabled={table.code === null} />
            </Box>
          ))}
          <Button disabled={table.code === null} onClick={() => put(anew)}>
            Straighten it
          </Button>
          <Typography variant="h2" sx={{ mt: 2, mb: 0.5 }}>
            Faults
          </Typography>
          <Box sx={{ display: "flex", flexDirection: "column", alignItems: "flex-start", gap: 0.25 }}>
            {faults.map((fault) => (
              <Button key={fault.label} onClick={() => mutate({ body: { faults: "faults" in fault ? fault.faults : {}, table: "table" in fault ? fault.table : {} } })}>
                {fault.label}
              </Button>
            ))}
            <Button variant="outlined" onClick={() => mutate({ body: cured })}>
              All is well again
            </Button>
          </Box>
        </>
      )}
      <Box sx={{ flex: 1 }} />
      <Button onClick={onClose}>Close</Button>
    </Drawer>
  );
}
