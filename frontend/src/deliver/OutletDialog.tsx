import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, InputAdornment, MenuItem, TextField, type TextFieldProps } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, type Outlet } from "../kit/api/client";
import { Trouble } from "../kit/Trouble";
import { emptyForm, formOf, type OutletForm, shortName, specOf } from "./outlet.logic";

interface Props {
  /** The outlet to change or to copy; none makes a new one from nothing. */
  from?: Outlet;
  /** Whether `from` itself is changed. */
  change?: boolean;
  onClose: () => void;
  onSaved: (name: string) => void;
}

/** The rules of an outlet, to be made, copied or changed. */
export function OutletDialog({ from, change = false, onClose, onSaved }: Props) {
  const client = useQueryClient();
  const [form, setForm] = useState<OutletForm>(from ? formOf(from, !change) : emptyForm);
  const saved = (spec: { name: string }) => {
    void client.invalidateQueries();
    onSaved(spec.name);
  };
  const add = api.useMutation("post", "/api/outlets", { onSuccess: saved });
  const alter = api.useMutation("put", "/api/outlets/{name}", { onSuccess: saved });
  const spec = specOf(form);
  const save = () => (change ? alter.mutate({ params: { path: { name: spec.name } }, body: spec }) : add.mutate({ body: spec }));
  const field = (key: keyof OutletForm, props: TextFieldProps & { unit?: string }) => {
    const { unit, ...rest } = props;
    const slotProps = unit ? { input: { endAdornment: <InputAdornment position="end">{unit}</InputAdornment> } } : undefined;
    return <TextField size="small" value={form[key]} onChange={(e) => setForm({ ...form, [key]: e.target.value })} slotProps={slotProps} {...rest} />;
  };
  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save();
        }}
      >
        <DialogTitle>{change ? `Change ${from?.title}` : "New outlet"}</DialogTitle>
        <DialogContent>
          <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 2, pt: 1 }}>
            {field("title", { label: "Name of the outlet", autoFocus: true, required: true })}
            {field("name", {
              label: "Short name",
              disabled: change,
              placeholder: shortName(form.title),
              helperText: "for folders and reports",
            })}
            {field("format", { label: "Format", select: true, children: [<MenuItem key="jpeg" value="jpeg">JPEG</MenuItem>, <MenuItem key="png" value="png">PNG</MenuItem>] })}
            {field("side", { label: "Side of the square", unit: "px", type: "number" })}
            {form.format === "jpeg" &&
              field("limit", {
                label: "File size ruled by",
                select: true,
                children: [<MenuItem key="quality" value="quality">a quality</MenuItem>, <MenuItem key="weight" value="weight">a limit</MenuItem>],
              })}
            {form.format === "jpeg" &&
              (form.limit === "quality"
                ? field("quality", { label: "JPEG quality", type: "number", helperText: "40 to 100" })
                : field("kilobytes", { label: "At most", unit: "KB", type: "number", helperText: "1 KB is 1,024 bytes" }))}
            {field("coverage", { label: "Product fills", unit: "%", helperText: "empty: as set in Finish" })}
            {field("shadow", {
              label: "Ground",
              select: true,
              children: [<MenuItem key="none" value="none">pure white</MenuItem>, <MenuItem key="own" value="own">white, own shadow kept</MenuItem>],
            })}
            {field("density", { label: "Density", unit: "ppi", type: "number" })}
            {field("pattern", { label: "File names", helperText: "{code} {angle} {name} {outlet} {number:3}" })}
          </Box>
          <Trouble fault={add.error ?? alter.error} />
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={!form.title.trim() || add.isPending || alter.isPending}>
            {change ? "Keep these rules" : "Add the outlet"}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
