import { useEffect, useRef } from "react";

/** A keyboard-wedge reader types faster than any hand. */
const FASTEST_HAND_MS = 40;
const SHORTEST_CODE = 3;

/** Codes from a reader, wherever the focus is, as long as it is not in a field. */
export function useScanner(onCode: (code: string) => void) {
  const told = useRef(onCode);
  useEffect(() => {
    told.current = onCode;
  }, [onCode]);
  useEffect(() => {
    let typed = "";
    let last = 0;
    const listen = (event: KeyboardEvent) => {
      if (event.target instanceof HTMLElement && event.target.closest("input, textarea, [role=combobox]")) return;
      const pause = event.timeStamp - last;
      last = event.timeStamp;
      if (pause > FASTEST_HAND_MS) typed = "";
      if (event.key === "Enter" && typed.length >= SHORTEST_CODE) {
        event.preventDefault();
        told.current(typed);
        typed = "";
      } else if (event.key.length === 1) typed += event.key;
      // From the second quick key on it is a reader: its letters are no shortcuts.
      if (typed.length > 1) event.stopImmediatePropagation();
    };
    window.addEventListener("keydown", listen, { capture: true });
    return () => window.removeEventListener("keydown", listen, { capture: true });
  }, []);
}
