import { describe, expect, it } from "vitest";

import type { Shot, Verdict } from "../kit/api/client";
import { doubtfulFirst, neighbour } from "./cut.logic";

const frame = { id: 1, shot_id: 1, kind: "product" as const, file_name: "a.jpg", format: "JPEG", width: 3, height: 2, bytes: 1, source_profile: null, preview: "/p" };

function shot(id: number, verdict: Verdict | null, doubt = 0): Shot {
  const cut = verdict ? { match: 50, proposed: 50, verdict, reasons: [], doubt, matte: null, square: null, cutout: null, levels: null, current: true, accepted: false, hand_made: false, places: [], concerns: [], estimated: false, freshness: [] } : null;
  return { id, product_id: id, code: "c", name: "n", material: "auto", angle: "front", spin: null, frame, cut, own_sections: [], problem: null, takes: 0, skipped: false };
}

describe("doubtfulFirst", () => {
  it("puts redo before look again before clean, and more doubt first", () => {
    const shots = [shot(1, "clean"), shot(2, "look_again", 0.2), shot(3, "redo"), shot(4, null), shot(5, "look_again", 0.6)];
    expect(doubtfulFirst(shots).map((s) => s.id)).toEqual([3, 5, 2, 1, 4]);
  });

  it("leaves out shots without a frame", () => {
    expect(doubtfulFirst([{ ...shot(1, null), frame: null }])).toEqual([]);
  });
});

it("neighbour ends at the ends", () => {
  const shots = [shot(1, "clean"), shot(2, "clean")];
  expect(neighbour(shots, 1, 1)?.id).toBe(2);
  expect(neighbour(shots, 2, 1)).toBeNull();
  expect(neighbour(shots, 9, 1)).toBeNull();
});
