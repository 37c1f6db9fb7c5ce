import { useEffect, useRef, useState } from "react";

import { Problem } from "./api/client";

interface Latest {
  src: string | null;
  fault: Error | null;
  busy: boolean;
}

/**
 * The picture at an address, while the address keeps changing: one request at a time, always the newest next,
 * and the picture before stays on screen until the next one is there.
 */
export function useLatestPicture(address: string | null): Latest {
  const [state, setState] = useState<Latest>({ src: null, fault: null, busy: false });
  const wanted = useRef<string | null>(null);
  const running = useRef(false);
  const shown = useRef<string | null>(null);

  useEffect(() => {
    wanted.current = address;
    const pump = async () => {
      if (running.current) return;
      running.current = true;
      while (wanted.current) {
        const next = wanted.current;
        wanted.current = null;
        setState((was) => ({ ...was, busy: true }));
        try {
          const response = await fetch(next);
          if (!response.ok) throw new Problem(response.status, String(((await response.json()) as { detail?: string }).detail ?? response.statusText));
          const src = URL.createObjectURL(await response.blob());
          if (shown.current) URL.revokeObjectURL(shown.current);
          shown.current = src;
          setState({ src, fault: null, busy: false });
        } catch (fault) {
          setState((was) => ({ ...was, fault: fault instanceof Error ? fault : new Error("the picture did not arrive"), busy: false }));
        }
      }
      running.current = false;
    };
    void pump();
  }, [address]);
  useEffect(() => () => void (shown.current && URL.revokeObjectURL(shown.current)), []);
  return state;
}
