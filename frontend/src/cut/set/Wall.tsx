import { Box, Chip, ToggleButton, ToggleButtonGroup, Tooltip, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";

import { api, type Shoot, type Shot, type Tuning } from "../../kit/api/client";
import { Trouble } from "../../kit/Trouble";
import { useWidth } from "../../kit/useWidth";
import { grounds, useGround } from "./ground";
import { concernsOf, walked, withConcern } from "./wall.logic";
import { type Face, faces, WallTile } from "./WallTile";

interface Props {
  shoot: Shoot;
  shots: Shot[];
  /** A backdrop match that is tried at the moment. */
  tried: number | null;
  suffering: Tuning["columns"][number] | undefined;
}

function Grounds({ ground, onGround }: { ground: string; onGround: (colour: string) => void }) {
  return (
    <Box role="group" aria-label="What the cut-outs lie on" sx={{ display: "flex", gap: 0.5, alignItems: "center" }}>
      {grounds.map(({ name, word, colour }) => (
        <Tooltip key={name} title={word}>
          <Box
            component="button"
            aria-label={word}
            aria-pressed={ground === colour}
            onClick={() => onGround(colour)}
            sx={{ width: 22, height: 22, p: 0, bgcolor: colour, border: ground === colour ? "2px solid #1c1c1c" : "1px solid #9a9a9a", cursor: "pointer" }}
          />
        </Tooltip>
      ))}
      <Tooltip title="A colour of your own">
        <Box component="input" type="color" aria-label="A colour of your own" value={ground} onChange={(event: React.ChangeEvent<HTMLInputElement>) => onGround(event.target.value)} sx={{ width: 30, height: 22, p: 0, border: "1px solid #9a9a9a" }} />
      </Tooltip>
    </Box>
  );
}

/** All shots of the set at once, to see whether a value holds: arrows walk, Enter opens the bench, A accepts. */
export function Wall({ shoot, shots, tried, suffering }: Props) {
  const go = useNavigate();
  const client = useQueryClient();
  const [face, setFace] = useState<Face>("cutout");
  const [ground, setGround] = useGround();
  const [concern, setConcern] = useState<string | null>(null);
  const [at, setAt] = useState(0);
  const scroller = useRef<HTMLDivElement>(null);
  const width = useWidth(scroller);
  const concerns = useMemo(() => concernsOf(shots), [shots]);
  const chosen = concerns.some((each) => each.said === concern) ? concern : null;
  const shown = useMemo(() => withConcern(shots, chosen), [shots, chosen]);
  const accept = api.useMutation("post", "/api/shots/{shot_id}/accept", { onSuccess: () => void client.invalidateQueries() });
  const across = Math.max(2, Math.floor(width / 214));
  const tile = width / across;
  const height = (face === "square" ? tile - 12 : (tile - 12) / 1.5) + 50;
  const virtual = useVirtualizer({ count: Math.ceil(shown.length / across), getScrollElement: () => scroller.current, estimateSize: () => height, overscan: 3 });
  const lost = new Set(suffering?.lost);
  const leftover = new Set(suffering?.leftover);

  const pressed = (event: KeyboardEvent) => {
    const shot = shown[at];
    if (event.key.toLowerCase() === "a" && shot?.cut && !event.ctrlKey && !event.metaKey) {
      accept.mutate({ params: { path: { shot_id: shot.id } }, body: { accepted: !shot.cut.accepted } });
      return;
    }
    const next = walked(at, event.key, across, shown.length);
    if (next === at) return;
    event.preventDefault();
    setAt(next);
    virtual.scrollToIndex(Math.floor(next / across));
    requestAnimationFrame(() => scroller.current?.querySelector<HTMLElement>(`[data-shot="${shown[next]?.id}"]`)?.focus());
  };
  return (
    <>
      <Box sx={{ display: "flex", alignItems: "center", gap: 1.5, mb: 1, flexWrap: "wrap" }}>
        <Typography variant="h2">The doubtful ones first</Typography>
        <Box sx={{ flex: 1 }} />
        {face === "cutout" && <Grounds ground={ground} onGround={setGround} />}
        <ToggleButtonGroup size="small" exclusive value={face} onChange={(_, next: Face | null) => next && setFace(next)} aria-label="What the wall shows">
          {Object.entries(faces).map(([name, word]) => (
            <ToggleButton key={name} value={name} sx={{ px: 1.5, py: 0.25 }}>
              {word}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
      </Box>
      {concerns.length > 0 && (
        <Box role="group" aria-label="Only shots with this doubt" sx={{ display: "flex", gap: 0.75, mb: 1, flexWrap: "wrap" }}>
          {concerns.map(({ said, count }) => (
            <Chip key={said} size="small" variant={said === chosen ? "filled" : "outlined"} color={said === chosen ? "primary" : "default"} label={`${said} (${count})`} onClick={() => (setConcern(said === chosen ? null : said), setAt(0))} />
          ))}
        </Box>
      )}
      <Trouble fault={accept.error} />
      <Box ref={scroller} onKeyDown={pressed} sx={{ flex: 1, overflow: "auto" }}>
        <Box sx={{ height: Math.ceil(shown.length / across) * height, position: "relative" }}>
          {virtual.getVirtualItems().flatMap((line) =>
            shown.slice(line.index * across, (line.index + 1) * across).map((shot, k) => {
              const index = line.index * across + k;
              return (
                <WallTile
                  key={shot.id}
                  shot={shot}
                  face={face}
                  ground={ground}
                  tried={shot.own_sections.includes("cut") ? null : tried}
                  suffers={lost.has(shot.id) ? "lost" : leftover.has(shot.id) ? "leftover" : null}
                  onOpen={() => void go(`/shoots/${shoot.id}/cut/${shot.id}`)}
                  onFocus={() => setAt(index)}
                  tabIndex={index === Math.min(at, shown.length - 1) ? 0 : -1}
                  at={{ top: line.index * height, left: k * tile, width: tile - 12 }}
                />
              );
            }),
          )}
        </Box>
      </Box>
    </>
  );
}
