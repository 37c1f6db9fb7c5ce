import { Alert, Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useDropzone } from "react-dropzone";

import { api } from "../kit/api/client";
import { plural } from "../kit/format";
import { Trouble } from "../kit/Trouble";

/** Paste a product list, or drop it as a CSV file. */
export function ProductListDialog({ shootId, onClose }: { shootId: number; onClose: () => void }) {
  const client = useQueryClient();
  const [text, setText] = useState("");
  const add = api.useMutation("post", "/api/shoots/{shoot_id}/products", { onSuccess: () => void client.invalidateQueries() });
  const { getRootProps, isDragActive } = useDropzone({ noClick: true, noKeyboard: true, onDrop: ([file]) => void file?.text().then(setText) });
  const result = add.data;
  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth>
      <DialogTitle>Add products</DialogTitle>
      <DialogContent {...getRootProps()}>
        <Typography color="text.secondary" sx={{ mb: 1.5 }}>
          One line a product: code, name, material. Commas, semicolons or tabs; with or without a heading. Material is solid, strands, clear, pale or left empty. A code that is there already gets its
          new name.
        </Typography>
        <TextField
          label={isDragActive ? "Drop the file here" : "Product list"}
          placeholder={"HT-204, Rope-handled jug, solid\nHT-310, Bottle brush, strands"}
          value={text}
          onChange={(e) => setText(e.target.value)}
          multiline
          minRows={9}
          maxRows={16}
          fullWidth
          autoFocus
          slotProps={{ htmlInput: { style: { fontVariantNumeric: "tabular-nums" } } }}
        />
        <Trouble fault={add.error} />
        {result && (
          <Alert severity={result.problems.length ? "warning" : "success"} variant="outlined" sx={{ mt: 1.5 }}>
            {plural(result.added, "product")} added{result.renewed ? `, ${result.renewed} renewed` : ""}.
            {result.problems.map((problem) => (
              <Box key={problem}>{problem}</Box>
            ))}
          </Alert>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>{result ? "Close" : "Cancel"}</Button>
        <Button variant="contained" disabled={!text.trim() || add.isPending} onClick={() => add.mutate({ params: { path: { shoot_id: shootId } }, body: { text } })}>
          Add to the plan
        </Button>
      </DialogActions>
    </Dialog>
  );
}
