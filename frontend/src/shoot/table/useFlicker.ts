import { useEffect, useState } from "react";

const FLICKER_MS = 350;

/** The guide blinks between fully there and away, so that a mark that moves shows. Returns whether it is away now. */
export function useFlicker(on: boolean): boolean {
  const [hidden, setHidden] = useState(false);
  useEffect(() => {
    if (!on) return;
    const timer = window.setInterval(() => setHidden((was) => !was), FLICKER_MS);
    return () => {
      window.clearInterval(timer);
      setHidden(false);
    };
  }, [on]);
  return hidden;
}
