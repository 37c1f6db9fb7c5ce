import type { SheetRow, Spec } from "../kit/api/client";
import { kilobytes } from "../kit/format";

export const stateWord: Record<SheetRow["state"], string> = {
  ready: "ready",
  fails: "breaks a rule",
  redo: "set aside: redo",
  outdated: "settings changed since",
  missing: "not finished yet",
};

/** Rows that may be sent; those that pass every rule are chosen to begin with. */
export function chosenAtFirst(rows: SheetRow[]): number[] {
  return rows.filter((row) => row.state === "ready").map((row) => row.shot_id);
}

export function canBeSent(row: SheetRow): boolean {
  return row.state === "ready" || row.state === "fails";
}

/** A spec in one line, as a person would say it. */
export function specLine(spec: Spec): string {
  const size = `${spec.format === "jpeg" ? "JPEG" : "PNG"}, ${spec.side_px} x ${spec.side_px} px`;
  const weight = spec.max_bytes ? `at most ${kilobytes(spec.max_bytes)}` : spec.quality ? `quality ${spec.quality}` : "";
  const ground = spec.shadow === "own" ? "own shadow kept" : "pure white";
  const covers = spec.coverage ? `product fills ${Math.round(spec.coverage * 100)} %` : "";
  return [size, weight, covers, ground, `${spec.density_ppi} ppi`].filter(Boolean).join(", ");
}
