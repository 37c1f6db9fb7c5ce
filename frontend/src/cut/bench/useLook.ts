import { useState } from "react";

import type { ViewName } from "../../kit/api/client";
import type { Comparing } from "./Stage";
import type { Size } from "./stage.logic";

export const tabs = ["Match", "Touch", "Outline", "Edge", "History", "Out"] as const;
export type TabName = (typeof tabs)[number];

/** How shots are looked at and touched, the same from one to the next; the centre is in parts of the frame, `pane` the window's size. */
export function useLook() {
  const [tab, setTab] = useState<TabName>("Match");
  const [view, setView] = useState<ViewName>("loud");
  const [comparing, setComparing] = useState<Comparing>("none");
  const [parted, setParted] = useState(0.5);
  const [zoom, setZoom] = useState(0);
  const [centre, setCentre] = useState<[number, number]>([0.5, 0.5]);
  const [pane, setPane] = useState<Size>({ width: 900, height: 600 });
  const [brush, setBrush] = useState({ width: 0.01, reach: 0.3 });
  return { tab, setTab, view, setView, comparing, setComparing, parted, setParted, zoom, setZoom, centre, setCentre, pane, setPane, brush, setBrush };
}

export type Look = ReturnType<typeof useLook>;
