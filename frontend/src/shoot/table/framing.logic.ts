import type { PercentCrop } from "react-image-crop";

import type { components } from "../../kit/api/schema";

export type Framing = components["schemas"]["FramingBox"];

/** Where a box that is drawn anew begins: a margin of a twentieth all round. */
export const FIRST_BOX: Framing = { left: 0.05, top: 0.05, right: 0.95, bottom: 0.95 };

const within = (part: number) => Math.min(1, Math.max(0, Math.round(part * 1e4) / 1e4));

export function cropOf({ left, top, right, bottom }: Framing): PercentCrop {
  return { unit: "%", x: 100 * left, y: 100 * top, width: 100 * (right - left), height: 100 * (bottom - top) };
}

export function boxOf({ x, y, width, height }: Pick<PercentCrop, "x" | "y" | "width" | "height">): Framing {
  return { left: within(x / 100), top: within(y / 100), right: within((x + width) / 100), bottom: within((y + height) / 100) };
}

/** In words: how much of the view is kept. */
export function framingSaid({ left, top, right, bottom }: Framing): string {
  return `${Math.round(100 * (right - left))} % of the width, ${Math.round(100 * (bottom - top))} % of the height`;
}
