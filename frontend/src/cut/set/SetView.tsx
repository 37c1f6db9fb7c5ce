import { Box } from "@mui/material";
import { useMemo, useState } from "react";

import { api, type Material, type Shoot } from "../../kit/api/client";
import { Empty, Trouble } from "../../kit/Trouble";
import { doubtfulFirst } from "../cut.logic";
import { type Scope, SetControl } from "./SetControl";
import { useTuning } from "./useTuning";
import { Wall } from "./Wall";

/** Tune for the set: the control with its chart beside the wall, the doubtful ones first. */
export function SetView({ shoot }: { shoot: Shoot }) {
  const { data: shots, error } = api.useQuery("get", "/api/shoots/{shoot_id}/shots", { params: { path: { shoot_id: shoot.id } } });
  const ordered = useMemo(() => doubtfulFirst(shots ?? []), [shots]);
  const [scope, setScope] = useState<Scope>({});
  const [moved, setMoved] = useState<number | null>(null);
  const [pointed, setPointed] = useState<number | null>(null);
  const meant = useMemo(
    () => ordered.filter((shot) => (!scope.angle || scope.angle === (shot.spin ?? shot.angle)) && (!scope.material || scope.material === shot.material)),
    [ordered, scope],
  );
  const version = useMemo(() => ordered.map((shot) => shot.cut?.levels ?? "").join(), [ordered]);
  const tuning = useTuning(shoot.id, scope, version);
  const angles = useMemo(() => [...new Set(ordered.map((shot) => shot.spin ?? shot.angle))], [ordered]);
  const used = useMemo(() => [...new Set(ordered.map((shot) => shot.material as Material))], [ordered]);
  if (shots && ordered.length === 0) return <Empty title="Nothing to cut yet">Bring in frames at the station Shoot; they find their shots by name.</Empty>;
  const column = tuning?.columns.find((each) => each.match === pointed);
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "340px minmax(0, 1fr)", gap: 2, p: 2 }}>
      <SetControl shoot={shoot} tuning={tuning} scope={scope} onScope={(next) => (setScope(next), setMoved(null))} moved={moved} onMove={setMoved} pointed={pointed} onPoint={setPointed} angles={angles} used={used} />
      <Box sx={{ minHeight: 0, display: "flex", flexDirection: "column" }}>
        <Trouble fault={error} />
        <Wall shoot={shoot} shots={meant} tried={pointed ?? moved} suffering={column} />
      </Box>
    </Box>
  );
}
