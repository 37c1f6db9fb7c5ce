import { describe, expect, it } from "vitest";

import type { DrawnShape } from "../../kit/api/client";
import { anchored, inFrame, withPoints } from "./corners.logic";

const found = { left: 0.2, top: 0.4, right: 0.6, bottom: 0.8 };
const shape: DrawnShape = { points: [[0.2, 0.4], [0.6, 0.4], [0.4, 0.8]], curved: false, keep: "inside", anchor: "frame", locked: false };

describe("outlines that follow the product", () => {
  it("stay in their place when they begin to, and when they stop", () => {
    const following = anchored(shape, "product", found);
    expect(following.points).toEqual([[0, 0], [1, 0], [0.5, 1]]);
    expect(anchored(following, "frame", found).points).toEqual(shape.points);
  });

  it("move with the box around the product", () => {
    const following = anchored(shape, "product", found);
    expect(inFrame(following, { left: 0, top: 0, right: 0.4, bottom: 0.4 })[1]).toEqual([0.4, 0]);
  });

  it("take corners in parts of the frame", () => {
    expect(withPoints(anchored(shape, "product", found), [[0.4, 0.6], [0.6, 0.4], [0.4, 0.8]], found).points[0]).toEqual([0.5, 0.5]);
  });

  it("count as parts of the frame while no product is found", () => {
    expect(inFrame({ ...shape, anchor: "product" }, null)).toEqual(shape.points);
  });
});
