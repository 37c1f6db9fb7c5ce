import type { Shot } from "../kit/api/client";

export interface BoardRow {
  productId: number;
  code: string;
  name: string;
  material: string;
  /** One cell for each angle, in the order of the angles. */
  cells: (Shot | null)[];
}

/** Shots in the order of the plan become rows of the board: a product each, a cell for each angle. */
export function boardRows(shots: Shot[], angles: string[]): BoardRow[] {
  const rows = new Map<number, BoardRow>();
  for (const shot of shots) {
    let row = rows.get(shot.product_id);
    if (!row) {
      row = { productId: shot.product_id, code: shot.code, name: shot.name, material: shot.material, cells: angles.map(() => null) };
      rows.set(shot.product_id, row);
    }
    row.cells[angles.indexOf(shot.angle)] = shot;
  }
  return [...rows.values()];
}

/** What a cell shows: the finished square when there is one, the frame until then. */
export function cellPicture(shot: Shot): { src: string | null; kind: "square" | "frame" | "nothing" } {
  if (shot.cut?.square) return { src: shot.cut.square, kind: "square" };
  if (shot.frame) return { src: shot.frame.preview, kind: "frame" };
  return { src: null, kind: "nothing" };
}

/** How many columns of products fit beside each other on a wide screen, so that a plan with one angle fills it. */
export function productsAcross(width: number, angles: number): number {
  return Math.max(1, Math.floor(width / (180 + 170 * angles)));
}
