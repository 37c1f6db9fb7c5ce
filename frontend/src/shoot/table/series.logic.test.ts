import { expect, it } from "vitest";

import { seriesSaid, stepsSaid } from "./series.logic";

const series = { id: 1, steps: [900, 950, 1000], slices: 2, state: "shooting" as const, problem: null };

it("says how far a series has come", () => {
  expect(seriesSaid(series, true)).toBe("2 of 3 slices are there");
  expect(seriesSaid(series, false)).toContain("broken off");
  expect(seriesSaid({ ...series, problem: "the cable was pulled" }, false)).toBe("broken off: the cable was pulled");
  expect(seriesSaid({ ...series, state: "merging", slices: 3 }, false)).toContain("being merged");
  expect(seriesSaid({ ...series, state: "done", slices: 3 }, false)).toContain("the slices are kept");
  expect(seriesSaid({ ...series, state: "failed", problem: "slice 2 moved" }, false)).toBe("slice 2 moved");
});

it("says how many slices it takes", () => {
  expect(stepsSaid(1, 11)).toContain("A single take");
  expect(stepsSaid(7, 2.8)).toBe("7 slices at f/2.8 keep all between these points sharp.");
});
