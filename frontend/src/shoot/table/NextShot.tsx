import { Box, Button, Paper, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";

import type { Shoot, Shot } from "../../kit/api/client";
import { plural, sentence } from "../../kit/format";
import { CodeField } from "./CodeField";
import { SpinOrder } from "./SpinOrder";
import { StandsAs } from "./StandsAs";
import type { AtTable, Order, Shutter, TakeKind } from "./useTable";

interface Props {
  shoot: Shoot;
  atTable: AtTable | undefined;
  shots: Shot[];
  order: Order;
  onOrder: (order: Order) => void;
  onCode: (code: string) => boolean;
  onTake: (kind: TakeKind) => void;
  onSkip: () => void;
  onSpin: () => void;
  shutter: Shutter;
  turntable: boolean;
  ready: boolean;
}

/** The named shot, the shutter that fills it, and what else should be shot now. */
export function NextShot({ shoot, atTable, shots, order, onOrder, onCode, onTake, onSkip, onSpin, shutter, turntable, ready }: Props) {
  const shot = atTable?.shot ?? null;
  const hasBackdrop = atTable?.backdrop != null;
  const left = shots.filter((each) => !each.frame && !each.skipped).length;
  const blocked = !shot || shutter.busy || !ready;
  const proposal = atTable?.proposal;
  return (
    <Paper sx={{ p: 1.5 }}>
      <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "center", mb: 0.5 }}>
        <Typography sx={{ fontSize: 12, color: "text.secondary" }}>{left ? `${plural(left, "shot")} to take, in order` : "All shots are taken"}</Typography>
        <ToggleButtonGroup exclusive size="small" value={order} onChange={(_, value: Order | null) => value && onOrder(value)} aria-label="Order of the list" sx={{ "& .MuiToggleButton-root": { py: 0, px: 1, textTransform: "none", fontSize: 12 } }}>
          <ToggleButton value="product">by product</ToggleButton>
          <ToggleButton value="angle">by angle</ToggleButton>
        </ToggleButtonGroup>
      </Box>
      <Typography variant="h1" sx={{ lineHeight: 1.2 }} data-testid="named-shot">
        {shot ? `${shot.code} ${shot.angle}` : "Nothing left to shoot"}
      </Typography>
      <Typography color="text.secondary" noWrap sx={{ minHeight: 20 }}>
        {shot?.name}
      </Typography>
      <Button fullWidth variant="contained" size="large" disabled={blocked} onClick={() => onTake("product")} sx={{ my: 1, py: 1, fontSize: 15 }}>
        {shutter.busy ? "Taking ..." : shot?.frame ? "Take again (T)" : "Take (T)"}
      </Button>
      {shot?.spin && <SpinOrder shot={shot} shots={shots} onSpin={onSpin} shutter={shutter} turntable={turntable} ready={ready} />}
      <Box sx={{ display: "flex", gap: 0.5, flexWrap: "wrap" }}>
        <Button variant={proposal?.kind === "backdrop" || !hasBackdrop ? "outlined" : "text"} disabled={blocked} onClick={() => onTake("backdrop")}>
          Empty set (E)
        </Button>
        <Button variant={proposal?.kind === "silhouette" ? "outlined" : "text"} disabled={blocked || !shot.frame} onClick={() => onTake("silhouette")}>
          Silhouette (S)
        </Button>
        {proposal?.kind === "backlit" && (
          <Button variant="outlined" disabled={blocked} onClick={() => onTake("backlit")}>
            Empty set in that light
          </Button>
        )}
        <Button disabled={blocked} onClick={onSkip}>
          Skip
        </Button>
      </Box>
      <Typography sx={{ fontSize: 12, mt: 0.5, minHeight: 18 }} data-testid="proposal">
        {proposal ? sentence(proposal.said) : !hasBackdrop && shot ? `No backdrop frame for ${shot.spin ?? shot.angle} yet. Takes are cut against a guess until the empty set is shot.` : ""}
      </Typography>
      {atTable && (!hasBackdrop || atTable.stands_as !== null) && <StandsAs atTable={atTable} />}
      <CodeField shootId={shoot.id} onCode={onCode} />
    </Paper>
  );
}
