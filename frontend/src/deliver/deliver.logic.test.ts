import { expect, it } from "vitest";

import type { SheetRow, Spec } from "../kit/api/client";
import { canBeSent, chosenAtFirst, specLine } from "./deliver.logic";

function row(id: number, state: SheetRow["state"]): SheetRow {
  return { shot_id: id, code: "c", name: "n", angle: "front", file: "f.jpg", verdict: "clean", state, bytes: 1, quality: 80, picture: null, findings: [] };
}

const spec: Spec = { name: "x", title: "X", format: "jpeg", side_px: 2000, quality: null, max_bytes: 153_600, coverage: 0.85, margin: null, shadow: "none", colour_space: "srgb", density_ppi: 72, name_pattern: "{code}" };

it("chooses only what passes every rule", () => {
  expect(chosenAtFirst([row(1, "ready"), row(2, "fails"), row(3, "redo"), row(4, "outdated"), row(5, "missing")])).toEqual([1]);
});

it("lets a person send what breaks a rule, and nothing unfinished", () => {
  expect(["ready", "fails", "redo", "outdated", "missing"].map((state) => canBeSent(row(1, state as SheetRow["state"])))).toEqual([true, true, false, false, false]);
});

it("says a spec in one line", () => {
  expect(specLine(spec)).toBe("JPEG, 2000 x 2000 px, at most 150 KB, product fills 85 %, pure white, 72 ppi");
  expect(specLine({ ...spec, max_bytes: null, quality: 85, shadow: "own", coverage: null })).toBe("JPEG, 2000 x 2000 px, quality 85, own shadow kept, 72 ppi");
});
