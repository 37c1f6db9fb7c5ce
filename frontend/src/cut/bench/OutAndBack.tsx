import { Typography } from "@mui/material";

import type { Shot } from "../../kit/api/client";
import type { BenchWork } from "./useBench";

export function OutAndBack({ shot }: { bench: BenchWork; shot: Shot }) {
  return <Typography>{shot.code}</Typography>;
}
