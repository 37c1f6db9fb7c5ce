import { useParams } from "react-router";

import { ShootFrame } from "../kit/ShootFrame";
import { Bench } from "./bench/Bench";
import { SetView } from "./set/SetView";

/** The set, or one shot of it on the bench. */
export function CutPage() {
  const shotId = useParams().shotId;
  return <ShootFrame here="cut">{(shoot) => (shotId ? <Bench shoot={shoot} shotId={Number(shotId)} /> : <SetView shoot={shoot} />)}</ShootFrame>;
}
