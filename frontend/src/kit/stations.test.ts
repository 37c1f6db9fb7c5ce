import { expect, it } from "vitest";

import { stationFacts } from "./stations";

const counts = { shots: 36, with_frame: 31, cut: 28, clean: 25, look_again: 2, redo: 1, ready: { a: 20, b: 25 } };

it("gives each station its own count", () => {
  expect(stationFacts(counts).map((f) => f.said)).toEqual(["36 shots", "31 of 36 have a frame", "3 to look at again", "28 of 36 finished", "25 ready"]);
});

it("has no part of nothing", () => {
  const empty = { shots: 0, with_frame: 0, cut: 0, clean: 0, look_again: 0, redo: 0, ready: {} };
  expect(stationFacts(empty).every((f) => f.part === 0)).toBe(true);
});
