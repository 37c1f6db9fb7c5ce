import { Box, Tab, Tabs } from "@mui/material";
import { useSearchParams } from "react-router";

import { api, type Shoot } from "../kit/api/client";
import { ShootFrame } from "../kit/ShootFrame";
import { BringIn } from "./BringIn";
import { FolderTable } from "./folder/FolderTable";
import { Table } from "./table/Table";

/** At the table with a camera, with another program's files, or files from elsewhere; without a camera the last comes first. */
function Ways({ shoot }: { shoot: Shoot }) {
  const { data: studio } = api.useQuery("get", "/api/studio", {}, { refetchInterval: 4000 });
  const [search, setSearch] = useSearchParams();
  if (!studio) return null;
  const way = search.get("way") ?? (studio.connected ? "table" : "files");
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column" }}>
      <Tabs value={way} onChange={(_, value: string) => setSearch({ way: value }, { replace: true })} sx={{ minHeight: 34, px: 2, borderBottom: 1, borderColor: "divider", "& .MuiTab-root": { minHeight: 34, py: 0, textTransform: "none" } }}>
        <Tab value="table" label="At the table" />
        <Tab value="folder" label="From a watched folder" />
        <Tab value="files" label="Bring in files" />
      </Tabs>
      {way === "table" && <Table shoot={shoot} studio={studio} />}
      {way === "folder" && <FolderTable shoot={shoot} />}
      {way === "files" && <BringIn shoot={shoot} />}
    </Box>
  );
}

export function ShootPage() {
  return <ShootFrame here="shoot">{(shoot) => <Ways shoot={shoot} />}</ShootFrame>;
}
