import { useEffect, useState } from "react";

import type { Tuning } from "../../kit/api/client";

/** The chart of the set as it is computed: each line of the stream tells of more shots than the one before. */
export function useTuning(shootId: number, scope: { angle?: string; material?: string }, version: string): Tuning | null {
  const [tuning, setTuning] = useState<Tuning | null>(null);
  const { angle, material } = scope;
  useEffect(() => {
    const stop = new AbortController();
    const query = new URLSearchParams({ ...(angle ? { angle } : {}), ...(material ? { material } : {}) });
    const read = async () => {
      const response = await fetch(`/api/shoots/${shootId}/tuning?${query.toString()}`, { signal: stop.signal });
      if (!response.ok || !response.body) return;
      const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
      let rest = "";
      for (;;) {
        const { value, done } = await reader.read();
        if (done) return;
        const lines = (rest + value).split("\n");
        rest = lines.pop() ?? "";
        const last = lines.at(-1);
        if (last) setTuning(JSON.parse(last) as Tuning);
      }
    };
    read().catch(() => undefined); // the page says elsewhere when the program is away
    return () => stop.abort();
  }, [shootId, angle, material, version]);
  return tuning;
}
