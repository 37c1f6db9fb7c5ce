import { Box, Dialog, DialogContent, DialogTitle, Typography } from "@mui/material";
import { Fragment, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";

import { keys } from "./keys";

const byPlace = Object.entries(Object.groupBy(Object.values(keys), (key) => key.where));

/** "?" lists every shortcut. */
export function ShortcutList() {
  const [open, setOpen] = useState(false);
  useHotkeys(keys.help.keys, () => setOpen((was) => !was), { preventDefault: true });
  return (
    <Dialog open={open} onClose={() => setOpen(false)} maxWidth="sm" fullWidth>
      <DialogTitle>Keys</DialogTitle>
      <DialogContent>
        {byPlace.map(([place, entries]) => (
          <Fragment key={place}>
            <Typography variant="h2" sx={{ mt: 1.5, mb: 0.5 }}>
              {place}
            </Typography>
            <Box component="dl" sx={{ display: "grid", gridTemplateColumns: "90px 1fr", rowGap: 0.5, m: 0 }}>
              {entries?.map((key) => (
                <Fragment key={key.does}>
                  <Box component="dt">
                    <Box component="kbd" sx={{ border: 1, borderColor: "divider", px: 0.75, py: 0.1, bgcolor: "#fff", fontFamily: "inherit", fontWeight: 650 }}>
                      {key.label}
                    </Box>
                  </Box>
                  <Box component="dd" sx={{ m: 0 }}>
                    {key.does}
                  </Box>
                </Fragment>
              ))}
            </Box>
          </Fragment>
        ))}
      </DialogContent>
    </Dialog>
  );
}
