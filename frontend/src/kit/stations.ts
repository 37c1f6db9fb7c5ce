import type { Counts } from "./api/client";
import { plural } from "./format";

export const stations = ["plan", "shoot", "cut", "finish", "deliver"] as const;
export type Station = (typeof stations)[number];

export interface StationFact {
  station: Station;
  title: string;
  said: string;
  /** How far this station's work has come, 0 to 1. */
  part: number;
}

/** What the line of stations says: each station with its own count. */
export function stationFacts(counts: Counts): StationFact[] {
  const part = (n: number) => (counts.shots ? n / counts.shots : 0);
  const ready = Math.max(0, ...Object.values(counts.ready));
  const doubtful = counts.look_again + counts.redo;
  return [
    { station: "plan", title: "Plan", said: plural(counts.shots, "shot"), part: counts.shots ? 1 : 0 },
    { station: "shoot", title: "Shoot", said: `${counts.with_frame} of ${counts.shots} have a frame`, part: part(counts.with_frame) },
    { station: "cut", title: "Cut", said: counts.cut === 0 ? "nothing cut yet" : doubtful ? `${doubtful} to look at again` : `${counts.cut} clean`, part: part(counts.cut) },
    { station: "finish", title: "Finish", said: `${counts.cut} of ${counts.shots} finished`, part: part(counts.cut) },
    { station: "deliver", title: "Deliver", said: `${ready} ready`, part: part(ready) },
  ];
}
