import { describe, expect, it } from "vitest";

import type { Shot } from "../kit/api/client";
import { boardColumns, boardRows, cellLabel, cellPicture, cellShot, productsAcross } from "./board.logic";

function shot(id: number, product: number, angle: string, more: Partial<Shot> = {}): Shot {
  return { id, product_id: product, code: `P${product}`, name: "thing", material: "auto", angle, spin: null, frame: null, cut: null, own_sections: [], problem: null, takes: 0, skipped: false, ...more };
}

const frame = { id: 1, shot_id: 1, kind: "product" as const, file_name: "a.jpg", format: "JPEG", width: 3, height: 2, bytes: 1, source_profile: null, preview: "/p" };

describe("boardRows", () => {
  it("puts each shot under its angle and keeps the order of products", () => {
    const rows = boardRows([shot(1, 7, "side"), shot(2, 7, "front"), shot(3, 5, "front")], ["front", "side"]);
    expect(rows.map((row) => row.cells.map((cell) => cell.shots[0]?.id ?? null))).toEqual([
      [2, 1],
      [3, null],
    ]);
  });
});

describe("a spin on the board", () => {
  const spin = (id: number, position: number, more: Partial<Shot> = {}) => shot(id, 7, `turn-0${position}`, { spin: "turn", ...more });
  const angles = ["front", "turn-01", "turn-02", "turn-03"];
  const shots = [shot(1, 7, "front"), spin(2, 1), spin(3, 2, { frame }), spin(4, 3)];

  it("stands in one column and says how many positions are there", () => {
    expect(boardColumns(shots, angles)).toEqual(["front", "turn"]);
    const cells = boardRows(shots, angles)[0]?.cells ?? [];
    expect(cells.map(cellLabel)).toEqual(["front", "turn, 1 of 3"]);
  });

  it("opens at the position in doubt, else at the first with a frame", () => {
    const cell = { column: "turn", shots: shots.slice(1) };
    expect(cellShot(cell)?.id).toBe(3);
    expect(cellShot({ ...cell, shots: [...cell.shots, spin(9, 3, { problem: "the frame is 3 x 2 px" })] })?.id).toBe(9);
    expect(cellShot({ column: "front", shots: [] })).toBeNull();
  });
});

describe("cellPicture", () => {
  it("prefers the finished square, then the frame, then nothing", () => {
    const cut = { match: 50, proposed: 50, verdict: "clean" as const, reasons: [], doubt: 0, matte: null, square: "/s", current: true, estimated: false, cutout: null, levels: null, accepted: false, hand_made: false, places: [], concerns: [], freshness: [] };
    expect(cellPicture(shot(1, 1, "front", { frame, cut })).kind).toBe("square");
    expect(cellPicture(shot(1, 1, "front", { frame })).src).toBe("/p");
    expect(cellPicture(shot(1, 1, "front")).kind).toBe("nothing");
  });
});

it("productsAcross never gives none", () => {
  expect(productsAcross(200, 3)).toBe(1);
  expect(productsAcross(1280, 1)).toBe(3);
});
