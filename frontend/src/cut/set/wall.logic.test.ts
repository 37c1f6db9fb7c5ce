import { describe, expect, it } from "vitest";

import type { Shot } from "../../kit/api/client";
import { concernsOf, walked, withConcern } from "./wall.logic";

const shot = (id: number, concerns: string[]) => ({ id, cut: { concerns } }) as unknown as Shot;
const shots = [shot(1, ["pale edge"]), shot(2, ["pale edge", "product lost"]), shot(3, [])];

describe("concerns", () => {
  it("are counted, the commonest first", () => {
    expect(concernsOf(shots)).toEqual([
      { said: "pale edge", count: 2 },
      { said: "product lost", count: 1 },
    ]);
  });

  it("filter the wall", () => {
    expect(withConcern(shots, "product lost").map((each) => each.id)).toEqual([2]);
    expect(withConcern(shots, null)).toHaveLength(3);
  });
});

it("the keyboard walks the grid and stays at its ends", () => {
  expect(walked(0, "ArrowRight", 3, 7)).toBe(1);
  expect(walked(1, "ArrowDown", 3, 7)).toBe(4);
  expect(walked(4, "ArrowDown", 3, 7)).toBe(4);
  expect(walked(0, "ArrowLeft", 3, 7)).toBe(0);
  expect(walked(2, "End", 3, 7)).toBe(6);
  expect(walked(5, "Home", 3, 7)).toBe(0);
});
