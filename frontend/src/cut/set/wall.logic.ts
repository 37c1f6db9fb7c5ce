import type { Shot } from "../../kit/api/client";

/** The kinds of doubt on a wall with how many shots have each, the commonest first. */
export function concernsOf(shots: Shot[]): { said: string; count: number }[] {
  const counts = new Map<string, number>();
  for (const shot of shots) for (const said of shot.cut?.concerns ?? []) counts.set(said, (counts.get(said) ?? 0) + 1);
  return [...counts].map(([said, count]) => ({ said, count })).sort((a, b) => b.count - a.count);
}

/** Shots of one kind of doubt; all of them without one. */
export function withConcern(shots: Shot[], said: string | null): Shot[] {
  return said === null ? shots : shots.filter((shot) => shot.cut?.concerns.includes(said));
}

/** Where the keyboard goes from a tile of a grid; it stays at the ends. */
export function walked(at: number, key: string, across: number, count: number): number {
  const by = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -across, ArrowDown: across, Home: -at, End: count - 1 - at }[key] ?? 0;
  const next = at + by;
  return next < 0 || next >= count ? at : next;
}
