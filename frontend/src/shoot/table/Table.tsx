import { Alert, Box, Button } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";

import { api, type Shoot, type Shot } from "../../kit/api/client";
import { keys } from "../../kit/keys";
import { Trouble } from "../../kit/Trouble";
import { CameraPanel } from "./CameraPanel";
import { CompareTakes } from "./CompareTakes";
import { FramingBox } from "./FramingBox";
import { Hands } from "./Hands";
import { LastTake } from "./LastTake";
import { LiveView } from "./LiveView";
import { NextShot } from "./NextShot";
import { Placement } from "./Placement";
import { type GuideLook, Tools } from "./Tools";
import { useFlicker } from "./useFlicker";
import { useFraming } from "./useFraming";
import { useLive, useWord } from "./useLive";
import { type Pointing, usePointing } from "./usePointing";
import { useScanner } from "./useScanner";
import { type Order, type Studio, type TakeKind, useNamedShot, useShutter } from "./useTable";

export function Table({ shoot, studio }: { shoot: Shoot; studio: Studio }) {
  const client = useQueryClient();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [order, setOrder] = useState<Order>("product");
  const { named, last, shots, pick, jump } = useNamedShot(shoot, order);
  const [look, setLook] = useState<GuideLook>({ opacity: 50, outline: false, flicker: false });
  const [comparing, setComparing] = useState(false);
  const [hands, setHands] = useState(studio.simulated && window.innerWidth > 1500);
  const hidden = useFlicker(look.flicker);
  const draw = useCallback((picture: ImageBitmap) => {
    const surface = canvas.current?.getContext("2d");
    if (surface) surface.drawImage(picture, 0, 0, surface.canvas.width, surface.canvas.height);
    picture.close();
  }, []);
  const shot = named?.shot ?? null;
  const live = useLive(shot?.id ?? null, draw);
  const trouble = useWord(live, (word) => word.trouble ?? null);
  const heldElsewhere = useWord(live, (word) => word.held_elsewhere);
  const ready = studio.connected && trouble === null && !heldElsewhere;
  const shutter = useShutter(ready);
  const pointing = usePointing();
  const framing = useFraming(shoot.id, shoot.treatment.cut.framing ?? null);
  const guide = api.useMutation("put", "/api/shots/{shot_id}/guide", { onSuccess: () => void client.invalidateQueries() });
  const skip = api.useMutation("put", "/api/shots/{shot_id}/skip", { onSuccess: () => void client.invalidateQueries() });

  const take = (kind: TakeKind) => shot && shutter.take(shot, kind, () => kind === "product" && pick(null));
  useScanner(jump);
  useHotkeys(keys.shutter.keys, () => void take("product"));
  useHotkeys(keys.emptySet.keys, () => void take("backdrop"));
  useHotkeys(keys.silhouette.keys, () => void take("silhouette"));
  useHotkeys(keys.onward.keys, () => pick(null));
  useHotkeys(keys.again.keys, () => last?.shot && pick(last.shot.id));
  useHotkeys(keys.flicker.keys, () => setLook((was) => ({ ...was, flicker: !was.flicker })));
  useHotkeys(keys.outline.keys, () => setLook((was) => ({ ...was, outline: !was.outline })));
  useHotkeys(keys.compare.keys, () => setComparing((was) => !was && (last?.takes.length ?? 0) > 1));

  const chooseGuide = (shotId: number, frameId: number | null) => guide.mutate({ params: { path: { shot_id: shotId } }, body: { frame_id: frameId } });
  /** What takes several pictures stays with its shot; the list goes on when it is asked to. */
  const stay = (taken: Shot) => {
    pick(taken.id);
    return true;
  };
  const point = (kind: Pointing) => {
    framing.draw(null);
    pointing.ask(kind);
  };
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "minmax(0, 1fr) 360px", mr: hands ? "340px" : 0 }}>
      <Box sx={{ minWidth: 0, minHeight: 0, display: "flex", flexDirection: "column" }}>
        {comparing && last?.shot ? (
          <CompareTakes key={last.shot.id} atTable={last} onClose={() => setComparing(false)} />
        ) : (
          <LiveView
            canvas={canvas}
            guide={named?.guide ?? null}
            look={{ outline: look.outline, opacity: look.flicker ? 100 : look.opacity, hidden }}
            trouble={trouble}
            pointing={pointing}
            box={framing.drawn ? <FramingBox framing={framing.drawn} onChange={framing.draw} /> : framing.kept && <FramingBox framing={framing.kept} />}
          />
        )}
        <Placement live={live} />
        <Box sx={{ px: 2, py: 1, borderTop: 1, borderColor: "divider", flexShrink: 0 }}>
          <CameraPanel studio={studio} live={live} pointing={pointing.kind === "neutral"} onPointing={(on) => point(on ? "neutral" : null)} />
          <Trouble fault={pointing.fault} />
        </Box>
      </Box>
      <Box sx={{ minHeight: 0, overflow: "auto", p: 1.5, display: "flex", flexDirection: "column", gap: 1.5, borderLeft: 1, borderColor: "divider" }}>
        {heldElsewhere && (
          <Alert severity="info" action={<Button onClick={() => live.takeOver()}>Take it over</Button>}>
            Another window holds the shutter.
          </Alert>
        )}
        <Trouble fault={shutter.fault} />
        <NextShot
          shoot={shoot}
          atTable={named}
          shots={shots}
          order={order}
          onOrder={setOrder}
          onCode={jump}
          onTake={take}
          onSkip={() => shot && skip.mutate({ params: { path: { shot_id: shot.id } }, body: { skipped: true } }, { onSuccess: () => pick(null) })}
          onSpin={() => shot && stay(shot) && shutter.takeSpin(shot)}
          shutter={shutter}
          turntable={studio.turntable !== null}
          ready={ready}
        />
        <LastTake
          atTable={last ?? null}
          onGuide={(frameId) => last?.shot && chooseGuide(last.shot.id, frameId)}
          onAgain={() => last?.shot && pick(last.shot.id)}
          onCompare={() => setComparing(true)}
        />
        <Tools
          shoot={shoot}
          studio={studio}
          named={named ?? null}
          look={look}
          onLook={setLook}
          onGuide={(frameId) => shot && chooseGuide(shot.id, frameId)}
          pointing={pointing}
          onPoint={point}
          onSeries={(points) => shot && stay(shot) && shutter.takeSeries(shot, points)}
          framing={framing}
          shutter={shutter}
          ready={ready}
        />
        {studio.simulated && (
          <Button variant="outlined" onClick={() => setHands(!hands)} sx={{ alignSelf: "flex-start" }}>
            {hands ? "Put the hands away" : "Hands of the simulated studio"}
          </Button>
        )}
      </Box>
      {studio.simulated && <Hands open={hands} onClose={() => setHands(false)} code={shot?.code} angle={shot?.spin ?? shot?.angle} />}
    </Box>
  );
}
