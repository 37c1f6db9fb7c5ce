import { useHotkeys } from "react-hotkeys-hook";

import type { ViewName } from "../kit/api/client";
import { keys } from "../kit/keys";

interface Actions {
  step: (by: 1 | -1) => void;
  view: (name: ViewName) => void;
  swap: () => void;
  hundred: () => void;
  nudge: (by: number) => void;
  propose: () => void;
  keep: () => void;
}

/** The keys of the bench. A focused slider keeps its own arrows; buttons keep Enter. */
export function useBenchKeys(actions: Actions) {
  useHotkeys(keys.next.keys, () => actions.step(1));
  useHotkeys(keys.back.keys, () => actions.step(-1));
  useHotkeys(keys.swap.keys, actions.swap);
  useHotkeys(keys.hundred.keys, actions.hundred);
  useHotkeys(keys.looser.keys, () => actions.nudge(-1));
  useHotkeys(keys.stricter.keys, () => actions.nudge(1));
  useHotkeys(keys.proposed.keys, actions.propose);
  useHotkeys(keys.keep.keys, (event) => {
    if (!(event.target instanceof HTMLButtonElement)) actions.keep();
  });
  useHotkeys(keys.onWhite.keys, () => actions.view("white"));
  useHotkeys(keys.onLoud.keys, () => actions.view("loud"));
  useHotkeys(keys.matte.keys, () => actions.view("matte"));
  useHotkeys(keys.frame.keys, () => actions.view("frame"));
  useHotkeys(keys.difference.keys, () => actions.view("difference"));
}
