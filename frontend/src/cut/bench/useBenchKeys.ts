import { useHotkeys } from "react-hotkeys-hook";

import type { ViewName } from "../../kit/api/client";
import { keys } from "../../kit/keys";
import type { Tool } from "./Pointing";

interface Actions {
  step: (by: 1 | -1) => void;
  view: (name: ViewName) => void;
  swap: () => void;
  hundred: () => void;
  zoom: (by: 1 | -1) => void;
  nudge: (by: number) => void;
  propose: () => void;
  keep: () => void;
  tool: (name: Tool) => void;
  undo: () => void;
  compare: () => void;
}

/** The keys of the bench. A focused slider keeps its own arrows; buttons keep Enter. */
export function useBenchKeys(actions: Actions) {
  useHotkeys(keys.next.keys, () => actions.step(1));
  useHotkeys(keys.back.keys, () => actions.step(-1));
  useHotkeys(keys.swap.keys, actions.swap);
  useHotkeys(keys.hundred.keys, actions.hundred);
  useHotkeys(keys.closer.keys, () => actions.zoom(1));
  useHotkeys(keys.farther.keys, () => actions.zoom(-1));
  useHotkeys(keys.looser.keys, () => actions.nudge(-1));
  useHotkeys(keys.stricter.keys, () => actions.nudge(1));
  useHotkeys(keys.proposed.keys, actions.propose);
  useHotkeys(keys.keep.keys, (event) => {
    if (!(event.target instanceof HTMLButtonElement)) actions.keep();
  });
  useHotkeys(keys.productHere.keys, () => actions.tool("product"));
  useHotkeys(keys.backdropHere.keys, () => actions.tool("backdrop"));
  useHotkeys(keys.undo.keys, actions.undo, { preventDefault: true });
  useHotkeys(keys.beside.keys, actions.compare);
  useHotkeys(keys.onWhite.keys, () => actions.view("white"));
  useHotkeys(keys.onLoud.keys, () => actions.view("loud"));
  useHotkeys(keys.matte.keys, () => actions.view("matte"));
  useHotkeys(keys.frame.keys, () => actions.view("frame"));
  useHotkeys(keys.difference.keys, () => actions.view("difference"));
}
