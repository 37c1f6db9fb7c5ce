import { describe, expect, it } from "vitest";

import { asParts, fingerprint, fromParts, jumpTo, staged, toFrame, toScreen, zoomed } from "./stage.logic";

const frame = { width: 1500, height: 1000 };
const pane = { width: 800, height: 600 };

describe("staged", () => {
  it("shows the whole frame in the middle", () => {
    const stage = staged(frame, pane, 0, { x: 0, y: 0 });
    expect(stage.region).toEqual({ left: 0, top: 0, width: 1500, height: 1000 });
    expect(stage.left).toBe(0);
    expect(stage.top).toBeCloseTo((600 - 1000 * (800 / 1500)) / 2);
  });

  it("stays inside the frame when close", () => {
    expect(staged(frame, pane, 1, { x: 0, y: 0 }).region).toEqual({ left: 0, top: 0, width: 800, height: 600 });
    expect(staged(frame, pane, 2, { x: 1500, y: 1000 }).region).toEqual({ left: 1100, top: 700, width: 400, height: 300 });
    expect(staged(frame, { width: 4000, height: 4000 }, 1, { x: 9, y: 9 }).region).toEqual({ left: 0, top: 0, width: 1500, height: 1000 });
  });

  it("maps points there and back", () => {
    for (const zoom of [0, 1, 8]) {
      const stage = staged(frame, pane, zoom, { x: 700, y: 400 });
      const at = toScreen(stage, { x: 712.5, y: 403 });
      expect(toFrame(stage, at).x).toBeCloseTo(712.5);
      expect(toFrame(stage, at).y).toBeCloseTo(403);
    }
  });
});

it("parts stay within what the program takes", () => {
  expect(asParts(frame, { x: 750, y: 250 })).toEqual([0.5, 0.25]);
  expect(asParts(frame, { x: 99999, y: -99999 })).toEqual([2, -1]);
});

it("a place in one frame is the same part of another", () => {
  expect(fromParts(pane, asParts(frame, { x: 750, y: 250 }))).toEqual({ x: 400, y: 150 });
});

it("zooms by steps and ends at the ends", () => {
  expect(zoomed(0, 1)).toBe(1);
  expect(zoomed(4, 1)).toBe(8);
  expect(zoomed(8, 1)).toBe(8);
  expect(zoomed(0, -1)).toBe(0);
});

it("jumps to a place at a zoom that shows it", () => {
  expect(jumpTo({ left: 0.5, top: 0.5, right: 0.54, bottom: 0.54 }, frame, pane)).toEqual({ zoom: 8, centre: { x: 780, y: 520 } });
  expect(jumpTo({ left: 0, top: 0, right: 1, bottom: 1 }, frame, pane).zoom).toBe(1);
});

it("a fingerprint changes with what it stands for", () => {
  expect(fingerprint({ a: 1 })).toBe(fingerprint({ a: 1 }));
  expect(fingerprint({ a: 1 })).not.toBe(fingerprint({ a: 2 }));
});
