import { Button } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";

import { api, type Shoot } from "./api/client";
import { Trouble } from "./Trouble";

/** One action for the whole shoot (or the chosen shots): cut and finish for every outlet. */
export function RunButton({ shoot, shotIds, label = "Cut and finish all" }: { shoot: Shoot; shotIds?: number[]; label?: string }) {
  const client = useQueryClient();
  const outlets = api.useQuery("get", "/api/outlets");
  const start = api.useMutation("post", "/api/shoots/{shoot_id}/runs", { onSuccess: () => void client.invalidateQueries() });
  const able = shoot.backdrop !== null && shoot.counts.with_frame > 0 && shoot.run?.state !== "running";
  return (
    <>
      <Button
        variant="contained"
        disabled={!able || start.isPending || !outlets.data}
        title={shoot.backdrop ? undefined : "Bring in a backdrop frame first"}
        onClick={() =>
          start.mutate({
            params: { path: { shoot_id: shoot.id } },
            body: { outlets: (outlets.data ?? []).map((spec) => spec.name), shot_ids: shotIds ?? null },
          })
        }
      >
        {label}
      </Button>
      <Trouble fault={start.error} />
    </>
  );
}
