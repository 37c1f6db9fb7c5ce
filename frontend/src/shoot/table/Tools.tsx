import { Box, Tab, Tabs } from "@mui/material";
import { useState } from "react";

import type { Shoot } from "../../kit/api/client";
import { FocusPanel } from "./FocusPanel";
import { FramingPanel } from "./FramingPanel";
import { GuidePanel } from "./GuidePanel";
import { SetPlan } from "./SetPlan";
import { SetUps } from "./SetUps";
import type { FramingState } from "./useFraming";
import type { Pointing, PointingState } from "./usePointing";
import type { AtTable, Shutter, Studio } from "./useTable";

export interface GuideLook {
  opacity: number;
  outline: boolean;
  flicker: boolean;
}

interface Props {
  shoot: Shoot;
  studio: Studio;
  named: AtTable | null;
  look: GuideLook;
  onLook: (look: GuideLook) => void;
  onGuide: (frameId: number | null) => void;
  pointing: PointingState;
  onPoint: (kind: Pointing) => void;
  onSeries: (points: { near_mm: number; far_mm: number } | null) => void;
  framing: FramingState;
  shutter: Shutter;
  ready: boolean;
}

const names = ["Guide", "Lamps", "Focus", "Frame", "Set-ups"] as const;

/** What is set at the table now and then; one thing at a time. */
export function Tools({ shoot, studio, named, look, onLook, onGuide, pointing, onPoint, onSeries, framing, shutter, ready }: Props) {
  const [open, setOpen] = useState<(typeof names)[number]>("Guide");
  return (
    <Box>
      <Tabs value={open} onChange={(_, name: (typeof names)[number]) => setOpen(name)} variant="fullWidth" aria-label="What is set at the table" sx={{ minHeight: 30, mb: 1, borderBottom: 1, borderColor: "divider", "& .MuiTab-root": { minHeight: 30, minWidth: 0, py: 0, px: 0.5, textTransform: "none" } }}>
        {names.map((name) => (
          <Tab key={name} value={name} label={name} />
        ))}
      </Tabs>
      <Box sx={{ minHeight: 116 }}>
        {open === "Guide" && <GuidePanel atTable={named} look={look} onLook={onLook} onGuide={onGuide} />}
        {open === "Lamps" && <SetPlan studio={studio} />}
        {open === "Focus" && <FocusPanel studio={studio} atTable={named} pointing={pointing} onPoint={onPoint} onSeries={onSeries} shutter={shutter} ready={ready} />}
        {open === "Frame" && <FramingPanel framing={framing} />}
        {open === "Set-ups" && <SetUps shootId={shoot.id} />}
      </Box>
    </Box>
  );
}
