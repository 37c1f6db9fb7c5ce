import { Button, Paper, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";

import type { Shoot, Shot } from "../../kit/api/client";
import { plural } from "../../kit/format";
import { Trouble } from "../../kit/Trouble";
import { CodeField } from "../table/CodeField";
import type { TakeKind } from "../table/useTable";

interface Props {
  shoot: Shoot;
  shot: Shot | null;
  kind: TakeKind;
  left: number;
  onExpect: (kind: TakeKind) => void;
  onCode: (code: string) => boolean;
  onSkip: () => void;
  fault: unknown;
}

/** What the next file in the watched folder is held to be, unless its name says otherwise. */
export function NextFile({ shoot, shot, kind, left, onExpect, onCode, onSkip, fault }: Props) {
  return (
    <Paper sx={{ p: 1.5 }}>
      <Typography sx={{ fontSize: 12, color: "text.secondary" }}>{left ? `${plural(left, "shot")} to take; the next file is` : "All shots are taken"}</Typography>
      <Typography variant="h1" sx={{ lineHeight: 1.2 }} data-testid="next-file">
        {shot ? `${shot.code} ${shot.angle}` : "Nothing left to shoot"}
      </Typography>
      <Typography color="text.secondary" noWrap sx={{ minHeight: 20, mb: 1 }}>
        {shot?.name}
      </Typography>
      <ToggleButtonGroup exclusive fullWidth size="small" value={kind} disabled={!shot} onChange={(_, next: TakeKind | null) => next && onExpect(next)} aria-label="What the next file shows" sx={{ "& .MuiToggleButton-root": { py: 0.5, textTransform: "none" } }}>
        <ToggleButton value="product">the product (T)</ToggleButton>
        <ToggleButton value="backdrop">the empty set (E)</ToggleButton>
        <ToggleButton value="silhouette" disabled={!shot?.frame}>
          its silhouette (S)
        </ToggleButton>
        <ToggleButton value="backlit">empty, silhouette light</ToggleButton>
      </ToggleButtonGroup>
      <Button disabled={!shot} onClick={onSkip} sx={{ mt: 0.5 }}>
        Skip
      </Button>
      <Trouble fault={fault} />
      <CodeField shootId={shoot.id} onCode={onCode} />
    </Paper>
  );
}
