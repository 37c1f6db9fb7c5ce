import { Box, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useHotkeys } from "react-hotkeys-hook";

import { api, type Shoot } from "../../kit/api/client";
import { keys } from "../../kit/keys";
import { Picture } from "../../kit/Picture";
import { LastTake } from "../table/LastTake";
import { useScanner } from "../table/useScanner";
import { type TakeKind, useNamedShot } from "../table/useTable";
import { NextFile } from "./NextFile";
import { WatchPanel } from "./WatchPanel";

/** At the table with another tethering program: its files are the takes, the list leads all the same. */
export function FolderTable({ shoot }: { shoot: Shoot }) {
  const client = useQueryClient();
  const path = { params: { path: { shoot_id: shoot.id } } };
  const { data: watch } = api.useQuery("get", "/api/shoots/{shoot_id}/watch", path, { refetchInterval: 3000 });
  const { last, shots } = useNamedShot(shoot, "product");
  const renewed = { onSuccess: () => void client.invalidateQueries() };
  const expect = api.useMutation("put", "/api/shoots/{shoot_id}/expected", renewed);
  const skip = api.useMutation("put", "/api/shots/{shot_id}/skip", renewed);
  const next = watch?.expected_shot ?? null;
  const ask = (shotId: number | null, kind: TakeKind) => expect.mutate({ ...path, body: { shot_id: shotId, kind } });
  const jump = (code: string): boolean => {
    const of = shots.filter((each) => each.code.toLowerCase() === code.toLowerCase());
    const found = of.find((each) => !each.frame) ?? of[0];
    if (found) ask(found.id, "product");
    return found !== undefined;
  };
  useScanner(jump);
  useHotkeys(keys.emptySet.keys, () => next && ask(next.id, "backdrop"));
  useHotkeys(keys.silhouette.keys, () => next?.frame && ask(next.id, "silhouette"));
  useHotkeys(keys.shutter.keys, () => next && ask(next.id, "product"));
  useHotkeys(keys.onward.keys, () => ask(null, "product"));
  useHotkeys(keys.again.keys, () => last?.shot && ask(last.shot.id, "product"));
  if (!watch) return null;
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "minmax(0, 1fr) 400px" }}>
      <Box sx={{ minHeight: 0, p: 2, overflow: "auto", display: "grid", gridTemplateColumns: "minmax(0, 3fr) minmax(0, 2fr)", gap: 2, alignContent: "start" }}>
        <LastTake atTable={last ?? null} side={300} onAgain={() => last?.shot && ask(last.shot.id, "product")} />
        {last?.shot?.frame && (
          <Box>
            <Picture src={`/api/frames/${last.shot.frame.id}/view?width=960`} alt="The file as it came" ratio={last.shot.frame.width / last.shot.frame.height} />
            <Typography noWrap sx={{ fontSize: 12, mt: 0.5 }}>
              {last.shot.frame.file_name}, {last.shot.frame.width} x {last.shot.frame.height} px
            </Typography>
          </Box>
        )}
      </Box>
      <Box sx={{ minHeight: 0, overflow: "auto", p: 1.5, display: "flex", flexDirection: "column", gap: 1.5, borderLeft: 1, borderColor: "divider" }}>
        {watch.folder && (
          <NextFile
            shoot={shoot}
            shot={next}
            kind={watch.expected_kind}
            left={shots.filter((each) => !each.frame && !each.skipped).length}
            onExpect={(kind) => next && ask(next.id, kind)}
            onCode={jump}
            onSkip={() => next && skip.mutate({ params: { path: { shot_id: next.id } }, body: { skipped: true } }, { onSuccess: () => ask(null, "product") })}
            fault={expect.error ?? skip.error}
          />
        )}
        <WatchPanel shootId={shoot.id} watch={watch} />
      </Box>
    </Box>
  );
}
