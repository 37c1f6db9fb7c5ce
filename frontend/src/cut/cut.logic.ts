import type { Shot, Verdict } from "../kit/api/client";

const rank: Record<Verdict, number> = { redo: 0, look_again: 1, clean: 2 };

/** The doubtful ones first: by verdict, then by doubt, then in the order of the plan. Shots that are not cut come last. */
export function doubtfulFirst(shots: Shot[]): Shot[] {
  return shots
    .filter((shot) => shot.frame)
    .map((shot, order) => ({ shot, order }))
    .sort((a, b) => {
      const byVerdict = (a.shot.cut ? rank[a.shot.cut.verdict] : 3) - (b.shot.cut ? rank[b.shot.cut.verdict] : 3);
      return byVerdict || (b.shot.cut?.doubt ?? 0) - (a.shot.cut?.doubt ?? 0) || a.order - b.order;
    })
    .map(({ shot }) => shot);
}

/** The shot before or after another one in a list; the ends stay where they are. */
export function neighbour(shots: Shot[], id: number, by: 1 | -1): Shot | null {
  const at = shots.findIndex((shot) => shot.id === id);
  return at < 0 ? null : (shots[at + by] ?? null);
}

export function clampMatch(value: number): number {
  return Math.min(100, Math.max(0, Math.round(value)));
}
