export interface Size {
  width: number;
  height: number;
}

export interface Point {
  x: number;
  y: number;
}

/** How a frame lies on the screen: a part of it (frame pixels) at a scale, with its corner at (left, top) screen pixels. */
export interface Stage {
  region: { left: number; top: number; width: number; height: number };
  scale: number;
  left: number;
  top: number;
}

export const zooms = [0, 1, 2, 4, 8] as const;

/** The square of frame pixels that a window shows at a zoom, kept inside the frame; zoom 0 shows the whole frame. */
export function staged(frame: Size, pane: Size, zoom: number, centre: Point): Stage {
  const scale = zoom || Math.min(pane.width / frame.width, pane.height / frame.height);
  const width = zoom ? Math.min(frame.width, Math.ceil(pane.width / scale)) : frame.width;
  const height = zoom ? Math.min(frame.height, Math.ceil(pane.height / scale)) : frame.height;
  const left = Math.round(Math.min(Math.max(0, centre.x - width / 2), frame.width - width));
  const top = Math.round(Math.min(Math.max(0, centre.y - height / 2), frame.height - height));
  return { region: { left, top, width, height }, scale, left: (pane.width - width * scale) / 2, top: (pane.height - height * scale) / 2 };
}

export function toFrame(stage: Stage, at: Point): Point {
  return { x: stage.region.left + (at.x - stage.left) / stage.scale, y: stage.region.top + (at.y - stage.top) / stage.scale };
}

export function toScreen(stage: Stage, at: Point): Point {
  return { x: stage.left + (at.x - stage.region.left) * stage.scale, y: stage.top + (at.y - stage.region.top) * stage.scale };
}

/** A point of the frame as parts of its width and height, to a hundredth of a pixel of a large frame. */
export function asParts(frame: Size, at: Point): [number, number] {
  const part = (value: number) => Math.round(Math.min(2, Math.max(-1, value)) * 1e6) / 1e6;
  return [part(at.x / frame.width), part(at.y / frame.height)];
}

/** The other way round. */
export function fromParts(frame: Size, [x, y]: [number, number]): Point {
  return { x: x * frame.width, y: y * frame.height };
}

/** The next zoom up or down. */
export function zoomed(zoom: number, by: 1 | -1): number {
  const at = zooms.findIndex((each) => each === zoom);
  return zooms[Math.min(zooms.length - 1, Math.max(0, at + by))] ?? zoom;
}

/** A zoom at which a place (parts of the frame) fills a good part of the window, and its centre. */
export function jumpTo(place: { left: number; top: number; right: number; bottom: number }, frame: Size, pane: Size): { zoom: number; centre: Point } {
  const width = Math.max(1, (place.right - place.left) * frame.width);
  const height = Math.max(1, (place.bottom - place.top) * frame.height);
  const fits = Math.min(pane.width / width, pane.height / height);
  const zoom = [...zooms].reverse().find((each) => each > 0 && each <= Math.max(1, fits * 0.8)) ?? 1;
  return { zoom, centre: { x: ((place.left + place.right) / 2) * frame.width, y: ((place.top + place.bottom) / 2) * frame.height } };
}

/** A short name for settings: another one whenever any of them changes. */
export function fingerprint(settings: unknown): string {
  let hash = 5381;
  for (const letter of JSON.stringify(settings)) hash = ((hash * 33) ^ letter.charCodeAt(0)) >>> 0;
  return hash.toString(36);
}
