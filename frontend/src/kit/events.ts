import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

/** Listens to what changes in a shoot and lets the queries read it anew. Returns whether the program is reachable. */
export function useShootEvents(shootId: number): boolean {
  const client = useQueryClient();
  const [here, setHere] = useState(true);
  useEffect(() => {
    const source = new EventSource(`/api/shoots/${shootId}/events`);
    source.addEventListener("change", (event) => {
      const change = JSON.parse((event as MessageEvent<string>).data) as { what: string; here?: boolean };
      const reachable = change.here !== false;
      setHere(reachable);
      if (reachable) void client.invalidateQueries();
    });
    // Now and then all is read anew, should a word ever have been lost.
    source.addEventListener("ping", () => void client.invalidateQueries());
    source.onerror = () => setHere(false);
    return () => source.close();
  }, [client, shootId]);
  return here;
}
