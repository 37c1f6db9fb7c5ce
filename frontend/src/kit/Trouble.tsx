import { Alert, Box, Button, Typography } from "@mui/material";
import type { ReactNode } from "react";

/** What went wrong, where the person is looking. */
export function Trouble({ fault, onAgain }: { fault: unknown; onAgain?: () => void }) {
  if (!fault) return null;
  const text = fault instanceof Error ? fault.message : "Something went wrong.";
  return (
    <Alert severity="error" variant="outlined" sx={{ my: 1, bgcolor: "#fff" }} action={onAgain && <Button onClick={onAgain}>Try again</Button>}>
      {text.charAt(0).toUpperCase() + text.slice(1)}
    </Alert>
  );
}

/** An empty place that says what to do next. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <Box sx={{ maxWidth: 460, mx: "auto", my: 8, textAlign: "center" }}>
      <Typography variant="h2" gutterBottom>
        {title}
      </Typography>
      <Box sx={{ color: "text.secondary" }}>{children}</Box>
    </Box>
  );
}
