import type { components } from "../../kit/api/schema";
import type { DrawnShape } from "../../kit/api/client";

export type FoundBox = components["schemas"]["BoxPublic"];

const whole: FoundBox = { left: 0, top: 0, right: 1, bottom: 1 };

/** What the points of an outline are parts of: the frame, or the box around the product as it was found. */
function groundOf(shape: DrawnShape, found: FoundBox | null): FoundBox {
  return shape.anchor === "product" && found ? found : whole;
}

const six = (value: number) => Math.round(Math.min(2, Math.max(-1, value)) * 1e6) / 1e6;

/** The points of an outline in parts of the frame. */
export function inFrame(shape: DrawnShape, found: FoundBox | null): [number, number][] {
  const { left, top, right, bottom } = groundOf(shape, found);
  return shape.points.map(([x = 0, y = 0]) => [left + x * (right - left), top + y * (bottom - top)]);
}

/** The same outline with other points, given in parts of the frame. */
export function withPoints(shape: DrawnShape, points: [number, number][], found: FoundBox | null): DrawnShape {
  const { left, top, right, bottom } = groundOf(shape, found);
  return { ...shape, points: points.map(([x, y]) => [six((x - left) / (right - left)), six((y - top) / (bottom - top))]) };
}

/** The same outline in the same place, anchored elsewhere. */
export function anchored(shape: DrawnShape, anchor: DrawnShape["anchor"], found: FoundBox | null): DrawnShape {
  return withPoints({ ...shape, anchor }, inFrame(shape, found), found);
}
