import { useNavigate, useParams } from "react-router";

import { api, type Shoot } from "../kit/api/client";
import { ShootFrame } from "../kit/ShootFrame";
import { Empty } from "../kit/Trouble";
import { FinishDesk } from "./FinishDesk";

function Finish({ shoot }: { shoot: Shoot }) {
  const go = useNavigate();
  const shotId = Number(useParams().shotId);
  const { data: shots } = api.useQuery("get", "/api/shoots/{shoot_id}/shots", { params: { path: { shoot_id: shoot.id } } });
  const framed = (shots ?? []).filter((shot) => shot.frame);
  if (shots && (framed.length === 0 || !shoot.backdrop)) return <Empty title="Nothing to finish yet">Bring in frames and the backdrop frame at the station Shoot.</Empty>;
  const at = Math.max(0, framed.findIndex((shot) => shot.id === shotId));
  if (!framed[at]) return null;
  return <FinishDesk key={framed[at].id} shoot={shoot} shots={framed} at={at} onGo={(id) => void go(`/shoots/${shoot.id}/finish/${id}`, { replace: true })} />;
}

/** The picture on its square, between its neighbours. */
export function FinishPage() {
  return <ShootFrame here="finish">{(shoot) => <Finish shoot={shoot} />}</ShootFrame>;
}
