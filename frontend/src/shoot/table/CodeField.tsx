import { Box, Button, TextField } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../../kit/api/client";
import { Trouble } from "../../kit/Trouble";

/** Jumps to a product by its code; one that nobody planned can be added on the spot. */
export function CodeField({ shootId, onCode }: { shootId: number; onCode: (code: string) => boolean }) {
  const client = useQueryClient();
  const [code, setCode] = useState("");
  const [unknown, setUnknown] = useState("");
  const add = api.useMutation("post", "/api/shoots/{shoot_id}/products");
  return (
    <Box
      component="form"
      onSubmit={(event) => {
        event.preventDefault();
        setUnknown(onCode(code.trim()) ? "" : code.trim());
        setCode("");
        // Back to the shortcuts: the next key is the shutter.
        if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
      }}
      sx={{ mt: 0.5 }}
    >
      <TextField
        fullWidth
        value={code}
        onChange={(event) => setCode(event.target.value)}
        placeholder="Type or scan a product code"
        slotProps={{ htmlInput: { "aria-label": "Product code" } }}
        error={unknown !== ""}
        helperText={unknown && `${unknown} is not in the product list of this shoot`}
        sx={{ "& input": { py: 0.75 }, bgcolor: "#fff" }}
      />
      {unknown && (
        <Button
          variant="outlined"
          sx={{ mt: 0.5 }}
          onClick={() =>
            add.mutate(
              { params: { path: { shoot_id: shootId } }, body: { text: unknown } },
              {
                onSuccess: async () => {
                  await client.invalidateQueries();
                  setCode(unknown);
                  setUnknown("");
                },
              },
            )
          }
        >
          Add {unknown} to the list
        </Button>
      )}
      <Trouble fault={add.error} />
    </Box>
  );
}
