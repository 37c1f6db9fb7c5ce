import { useEffect, useState, useSyncExternalStore } from "react";

import type { components } from "../../kit/api/schema";

export type LiveWord = components["schemas"]["LiveWord"];

const NO_WORD: LiveWord = { trouble: null, holds: false, held_elsewhere: false, reading: null };
const NO_ANSWER = "the program does not answer; the live view comes back by itself";

/** Before each picture stands when the device made it. */
const STAMP_BYTES = 8;

/** One name for this window, so that the program knows who holds the shutter. */
export const clientName = crypto.randomUUID();

/** The live view's line: pictures are drawn as they arrive, words wait to be read. It comes back by itself. */
class LiveLine {
  private word: LiveWord = { ...NO_WORD, trouble: null };
  private readonly listeners = new Set<() => void>();
  private socket: WebSocket | null = null;
  private again = 0;
  private ended = false;
  private shot: number | null = null;

  constructor(private readonly draw: (picture: ImageBitmap) => void) {}

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  readonly now = () => this.word;

  look(shot: number | null) {
    this.shot = shot;
    this.say();
  }

  takeOver() {
    this.say({ take_over: true });
  }

  open() {
    this.ended = false;
    const socket = new WebSocket(`${location.protocol === "https:" ? "wss" : "ws"}://${location.host}/api/studio/live`);
    this.socket = socket;
    socket.onopen = () => this.say();
    socket.onmessage = (event: MessageEvent<Blob | string>) => {
      if (typeof event.data === "string") this.tell(JSON.parse(event.data) as LiveWord);
      else void createImageBitmap(event.data.slice(STAMP_BYTES)).then(this.draw);
    };
    socket.onclose = () => {
      this.tell({ ...NO_WORD, trouble: NO_ANSWER });
      if (!this.ended) this.again = window.setTimeout(() => this.open(), 1000);
    };
  }

  close() {
    this.ended = true;
    window.clearTimeout(this.again);
    this.socket?.close();
  }

  private tell(word: LiveWord) {
    this.word = word;
    this.listeners.forEach((listener) => listener());
  }

  private say(extra: object = {}) {
    if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify({ client: clientName, shot: this.shot, ...extra }));
  }
}

/** A live view that draws with `draw` (which must not change) and is held against the guide of a shot. */
export function useLive(shotId: number | null, draw: (picture: ImageBitmap) => void): LiveLine {
  const [line] = useState(() => new LiveLine(draw));
  useEffect(() => {
    line.open();
    return () => line.close();
  }, [line]);
  useEffect(() => line.look(shotId), [line, shotId]);
  return line;
}

/** One part of the latest word; the component is drawn anew only when that part changes. */
export function useWord<T>(line: LiveLine, part: (word: LiveWord) => T): T {
  return useSyncExternalStore(line.subscribe, () => part(line.now()));
}

export type { LiveLine };
