import { expect, it } from "vitest";

import { boxOf, cropOf, FIRST_BOX, framingSaid } from "./framing.logic";

it("a box goes to the picture and back unchanged", () => {
  const box = { left: 0.125, top: 0.2, right: 0.75, bottom: 1 };
  expect(boxOf(cropOf(box))).toEqual(box);
});

it("nothing lies outside the view", () => {
  expect(boxOf({ x: -3, y: 40, width: 120, height: 70 })).toEqual({ left: 0, top: 0.4, right: 1, bottom: 1 });
});

it("says how much is kept", () => {
  expect(framingSaid(FIRST_BOX)).toBe("90 % of the width, 90 % of the height");
});
