import type { Shot } from "../kit/api/client";

/** A column of the board: an angle, or a spin with all its positions. */
export interface BoardCell {
  column: string;
  shots: Shot[];
}

export interface BoardRow {
  productId: number;
  code: string;
  name: string;
  material: string;
  /** One cell for each column, in the order of the angles; without shots where the product is not wanted from there. */
  cells: BoardCell[];
}

const columnOf = (shot: Shot) => shot.spin ?? shot.angle;

/** The columns in the order of the angles; the positions of a spin stand in one. */
export function boardColumns(shots: Shot[], angles: string[]): string[] {
  const spins = new Map(shots.map((shot) => [shot.angle, columnOf(shot)]));
  return [...new Set(angles.map((angle) => spins.get(angle) ?? angle))];
}

/** Shots in the order of the plan become rows of the board: a product each, a cell for each column. */
export function boardRows(shots: Shot[], angles: string[]): BoardRow[] {
  const columns = boardColumns(shots, angles);
  const rows = new Map<number, BoardRow>();
  for (const shot of shots) {
    let row = rows.get(shot.product_id);
    if (!row) {
      row = { productId: shot.product_id, code: shot.code, name: shot.name, material: shot.material, cells: columns.map((column) => ({ column, shots: [] })) };
      rows.set(shot.product_id, row);
    }
    row.cells[columns.indexOf(columnOf(shot))]?.shots.push(shot);
  }
  return [...rows.values()];
}

/** The shot that a cell shows and opens: of a spin the first that is in doubt, else the first with a frame, else the first. */
export function cellShot({ shots }: BoardCell): Shot | null {
  const doubtful = shots.find((shot) => shot.problem ?? (shot.cut && shot.cut.verdict !== "clean"));
  return doubtful ?? shots.find((shot) => shot.frame) ?? shots[0] ?? null;
}

/** "front", or "spin, 7 of 24". */
export function cellLabel({ column, shots }: BoardCell): string {
  return shots.length < 2 ? column : `${column}, ${shots.filter((shot) => shot.frame).length} of ${shots.length}`;
}

/** What a cell shows: the finished square when there is one, the frame until then. */
export function cellPicture(shot: Shot): { src: string | null; kind: "square" | "frame" | "nothing" } {
  if (shot.cut?.square) return { src: shot.cut.square, kind: "square" };
  if (shot.frame) return { src: shot.frame.preview, kind: "frame" };
  return { src: null, kind: "nothing" };
}

/** How many columns of products fit beside each other on a wide screen, so that a plan with one angle fills it. */
export function productsAcross(width: number, columns: number): number {
  return Math.max(1, Math.floor(width / (180 + 170 * columns)));
}
