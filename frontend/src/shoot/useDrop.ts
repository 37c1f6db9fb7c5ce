import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { sendFrame } from "../kit/api/client";

export interface Dropped {
  name: string;
  state: "waiting" | "sending" | "in" | "refused";
  said: string;
}

const AT_ONCE = 3;

/** Sends dropped files one by one, a few at a time. A refused file stays in the list with its sentence; the rest go on. */
export function useDrop(shootId: number) {
  const client = useQueryClient();
  const [files, setFiles] = useState<Dropped[]>([]);
  const change = (key: string, next: Partial<Dropped>) => setFiles((all) => all.map((file) => (file.name === key ? { ...file, ...next } : file)));

  async function sendOne(file: File, key: string, kind: "auto" | "backdrop") {
    change(key, { state: "sending" });
    try {
      const received = await sendFrame(shootId, file, kind);
      const where = received.frame.kind === "backdrop" ? "backdrop frame" : (received.shot ?? "waits for its shot");
      change(key, { state: "in", said: received.fresh ? where : `${where}; this file was here already` });
    } catch (fault) {
      change(key, { state: "refused", said: fault instanceof Error ? fault.message : "could not be sent" });
    }
  }

  async function send(dropped: File[], kind: "auto" | "backdrop" = "auto") {
    const queue = dropped.map((file) => ({ file, key: (file as File & { path?: string }).path?.replace(/^\.?\//, "") ?? file.name }));
    const names = queue.map(({ key }) => key);
    setFiles((all) => [...all.filter((old) => !names.includes(old.name)), ...names.map((name) => ({ name, state: "waiting" as const, said: "" }))]);
    const lane = async () => {
      for (let next = queue.shift(); next; next = queue.shift()) await sendOne(next.file, next.key, kind);
    };
    await Promise.all(Array.from({ length: AT_ONCE }, lane));
    await client.invalidateQueries();
  }

  return { files, send, clear: () => setFiles([]) };
}
