import { Box, Button, MenuItem, Paper, Select, Tab, Tabs, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { type KeyboardEvent, useState } from "react";
import { useNavigate } from "react-router";

import { api, type Place, type Shoot, type Touch, type ViewName } from "../../kit/api/client";
import { Trouble } from "../../kit/Trouble";
import { clampMatch, neighbour } from "../cut.logic";
import { CarryDialog } from "./CarryDialog";
import { EdgePanel } from "./EdgePanel";
import { HistoryPanel } from "./HistoryPanel";
import { MatchPanel } from "./MatchPanel";
import { OutAndBack } from "./OutAndBack";
import { OutlinePanel } from "./OutlinePanel";
import { Pointing, type Tool } from "./Pointing";
import { Reasons } from "./Reasons";
import { type Comparing, Stage } from "./Stage";
import { asParts, fromParts, jumpTo, type Point, zoomed, zooms } from "./stage.logic";
import { TouchPanel } from "./TouchPanel";
import { useBench } from "./useBench";
import { useBenchKeys } from "./useBenchKeys";
import { type Look, type TabName, tabs, useLook } from "./useLook";

const views: { name: ViewName; word: string }[] = [
  { name: "frame", word: "Frame" },
  { name: "matte", word: "Matte" },
  { name: "white", word: "On white" },
  { name: "grey", word: "On grey" },
  { name: "loud", word: "On loud" },
  { name: "checks", word: "On checks" },
  { name: "shadow", word: "Shadow alone" },
  { name: "difference", word: "Difference" },
];
const compared: { name: Comparing; word: string }[] = [
  { name: "none", word: "Alone" },
  { name: "beside", word: "Beside the frame" },
  { name: "split", word: "Parted with the frame" },
];

/** Shot after shot, each looked at as the one before was: at the same zoom and place, on the same ground. */
export function Bench({ shoot, shotId }: { shoot: Shoot; shotId: number }) {
  const look = useLook();
  return <OneShot key={shotId} shoot={shoot} shotId={shotId} look={look} />;
}

/** One shot: looked at at any zoom, tuned with one control, touched where it is needed, carried to others. */
function OneShot({ shoot, shotId, look }: { shoot: Shoot; shotId: number; look: Look }) {
  const go = useNavigate();
  const bench = useBench(shoot.id, shotId);
  const { detail, order } = bench;
  const { tab, setTab, view, setView, comparing, setComparing, parted, setParted, zoom, setZoom, pane, setPane, brush, setBrush } = look;
  const [held, setHeld] = useState(false);
  const [moved, setMoved] = useState<number | null>(null);
  const [tool, setTool] = useState<Tool>("look");
  const [corners, setCorners] = useState<Point[]>([]);
  const [pen, setPen] = useState<Point | null>(null);
  const [strokesShown, setStrokesShown] = useState(false);
  const [carrying, setCarrying] = useState(false);
  const stored = detail?.treatment.cut.match ?? null;
  const match = moved ?? stored ?? -1;
  const { data: answer } = api.useQuery("get", "/api/shots/{shot_id}/cut", { params: { path: { shot_id: shotId }, query: { match, v: bench.version } as { match: number } } }, { placeholderData: (before: unknown) => before as never, enabled: !!detail?.shot.frame });
  const value = moved ?? stored ?? answer?.match ?? 50;
  const keep = (next: number | null) => {
    if (!detail) return;
    bench.set(next === null ? "follows the set again" : `backdrop match ${next}`, { cut: next === null ? null : { ...detail.treatment.cut, match: next } });
    setMoved(null);
  };
  const step = (by: 1 | -1) => {
    const next = neighbour(order, shotId, by);
    if (next) void go(`/shoots/${shoot.id}/cut/${next.id}`);
  };
  const choose = (next: Tool) => {
    setTool(next);
    setTab(next === "outline" ? "Outline" : next === "look" ? tab : "Touch");
    setCorners([]);
    setPen(null);
  };
  const closeOutline = () => {
    const frame = detail?.shot.frame;
    if (!detail || !frame || corners.length < 3) return;
    const shape = { points: corners.map((at) => asParts(frame, at)), curved: false, keep: "inside" as const, anchor: "frame" as const, locked: false };
    bench.set("outline drawn", { outlines: { shapes: [...detail.treatment.outlines.shapes, shape] } });
    choose("look");
  };
  useBenchKeys({
    step,
    view: (name) => (setHeld(false), setView(name)),
    swap: () => setHeld((was) => !was),
    hundred: () => setZoom((was) => (was ? 0 : 1)),
    zoom: (by) => setZoom((was) => zoomed(was, by)),
    nudge: (by) => setMoved(clampMatch(value + by)),
    propose: () => setMoved(answer?.proposed ?? null),
    keep: () => (tool === "outline" && corners.length > 2 ? closeOutline() : moved !== null && keep(moved)),
    tool: (name) => choose(tool === name ? "look" : name),
    undo: bench.undo,
    compare: () => setComparing((was) => compared[(compared.findIndex(({ name }) => name === was) + 1) % compared.length]?.name ?? "none"),
  });
  if (bench.missing) return <Box sx={{ p: 2 }}><Trouble fault={bench.missing} /></Box>;
  const frame = detail?.shot.frame;
  if (!detail || !frame) return <Box sx={{ p: 2 }}>{detail && <Trouble fault={new Error("This shot has no frame yet; bring one in at the station Shoot.")} />}</Box>;
  const at = fromParts(frame, look.centre);
  const setCentre = (to: Point) => look.setCentre(asParts(frame, to));
  const stroke = (points: [number, number][]) => bench.touch({ kind: tool as Touch["kind"], points, width: brush.width, reach: tool === "product" || tool === "backdrop" ? brush.reach : 0 });
  const jump = (place: Place) => {
    const next = jumpTo(place, frame, pane);
    setZoom(next.zoom);
    setCentre(next.centre);
  };
  /** Arrows move the picture, or the brush when one is in hand; Space touches or sets a corner. */
  const pressed = (event: KeyboardEvent) => {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    const long = (zoom ? 24 / zoom : frame.width / 100) * (event.shiftKey ? 5 : 1);
    if (by) {
      event.preventDefault();
      const from = tool === "look" ? at : (pen ?? at);
      const next = { x: Math.min(frame.width, Math.max(0, from.x + (by[0] ?? 0) * long)), y: Math.min(frame.height, Math.max(0, from.y + (by[1] ?? 0) * long)) };
      if (tool === "look") setCentre(next);
      else setPen(next);
    } else if (event.key === " " && tool !== "look") {
      event.preventDefault();
      const here = pen ?? at;
      if (tool === "outline") setCorners([...corners, here]);
      else stroke([asParts(frame, here)]);
      setPen(here);
    } else if (event.key === "Escape") {
      if (corners.length) setCorners([]);
      else choose("look");
    }
  };
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "minmax(0, 1fr) 330px" }}>
      <Box sx={{ display: "flex", flexDirection: "column", minHeight: 0 }}>
        <Box sx={{ display: "flex", alignItems: "center", gap: 1, px: 2, py: 0.75 }}>
          <Button onClick={() => void go(`/shoots/${shoot.id}/cut`)}>All of the set</Button>
          <Select size="small" value={held ? "frame" : view} inputProps={{ "aria-label": "View" }} onChange={(event) => (setHeld(false), setView(event.target.value))} sx={{ minWidth: 130 }}>
            {views.map(({ name, word }) => (
              <MenuItem key={name} value={name}>
                {word}
              </MenuItem>
            ))}
          </Select>
          <Select size="small" value={comparing} inputProps={{ "aria-label": "Compare" }} onChange={(event) => setComparing(event.target.value)} sx={{ minWidth: 150 }}>
            {compared.map(({ name, word }) => (
              <MenuItem key={name} value={name}>
                {word}
              </MenuItem>
            ))}
          </Select>
          <Box sx={{ flex: 1 }} />
          <ToggleButtonGroup size="small" exclusive value={zoom} onChange={(_, next: number | null) => next !== null && setZoom(next)} aria-label="Zoom">
            {zooms.map((each) => (
              <ToggleButton key={each} value={each} sx={{ px: 1.1, py: 0.25 }}>
                {each ? `${each * 100} %` : "Whole"}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
        </Box>
        <Box tabIndex={0} role="group" aria-label="The picture: arrows move it" onKeyDown={pressed} sx={{ flex: 1, minHeight: 0, display: "flex", outlineOffset: -3 }}>
          <Stage shotId={shotId} frame={frame} view={held ? "frame" : view} match={match} version={`${frame.id}-${shoot.backdrop?.id ?? 0}-${bench.version}`} zoom={zoom} centre={at} comparing={comparing} parted={parted} onPart={setParted} size={pane} onSize={setPane}>
            {(stage) => (
              <Pointing
                stage={stage}
                frame={frame}
                tool={tool}
                brush={brush}
                corners={corners}
                shapes={tab === "Outline" ? detail.treatment.outlines.shapes : []}
                shown={{ touches: strokesShown && tab === "Touch" ? detail.treatment.touches.strokes : null }}
                pen={pen}
                onPan={(by) => zoom && setCentre({ x: stage.region.left + stage.region.width / 2 - by.x / stage.scale, y: stage.region.top + stage.region.height / 2 - by.y / stage.scale })}
                onZoom={(by, to) => (setZoom(zoomed(zoom, by)), by > 0 && setCentre(to))}
                onToggle={(to) => (setZoom(zoom ? 0 : 1), setCentre(to))}
                onStroke={stroke}
                onCorner={(to) => setCorners([...corners, to])}
                onClose={closeOutline}
                found={answer?.found ?? null}
                curves={answer?.outlines ?? []}
                onReshape={(k, shape) => bench.set("corner moved", { outlines: { shapes: detail.treatment.outlines.shapes.map((old, i) => (i === k ? shape : old)) } })}
              />
            )}
          </Stage>
        </Box>
      </Box>
      <Paper sx={{ borderWidth: "0 0 0 1px", display: "flex", flexDirection: "column", minHeight: 0 }}>
        <Box sx={{ px: 2, pt: 1.5 }}>
          <Typography variant="h1">{detail.shot.code}</Typography>
          <Typography noWrap>
            {detail.shot.name}, {detail.shot.angle}
          </Typography>
          <Reasons shot={detail.shot} verdict={answer?.verdict} reasons={answer?.reasons ?? []} places={answer?.places ?? []} onPlace={jump} onAccept={bench.accept} />
        </Box>
        <Tabs value={tab} onChange={(_, next: TabName) => (setTab(next), setTool("look"), setCorners([]))} variant="fullWidth" sx={{ minHeight: 36, borderBottom: 1, borderColor: "divider", "& .MuiTab-root": { minHeight: 36, minWidth: 0, px: 0.5, fontSize: 12.5 } }}>
          {tabs.map((name) => (
            <Tab key={name} value={name} label={name} />
          ))}
        </Tabs>
        <Box sx={{ flex: 1, overflow: "auto", p: 2, display: "flex", flexDirection: "column", gap: 1.25 }}>
          {tab === "Match" && <MatchPanel bench={bench} answer={answer} value={value} moved={moved !== null} onMove={setMoved} onKeep={keep} onUndo={() => setMoved(null)} />}
          {tab === "Touch" && <TouchPanel bench={bench} tool={tool} onTool={choose} brush={brush} onBrush={setBrush} shown={strokesShown} onShown={setStrokesShown} />}
          {tab === "Outline" && <OutlinePanel bench={bench} found={answer?.found ?? null} drawing={tool === "outline"} corners={corners.length} onDraw={(on) => choose(on ? "outline" : "look")} onClose={closeOutline} />}
          {tab === "Edge" && <EdgePanel bench={bench} />}
          {tab === "History" && <HistoryPanel bench={bench} />}
          {tab === "Out" && <OutAndBack shot={detail.shot} />}
          <Trouble fault={bench.fault} />
        </Box>
        <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "center", borderTop: 1, borderColor: "divider", px: 1, py: 0.75 }}>
          <Button onClick={() => step(-1)} disabled={!neighbour(order, shotId, -1)}>
            Shot before
          </Button>
          <Typography sx={{ color: "text.secondary", fontSize: 12 }}>
            {order.findIndex((shot) => shot.id === shotId) + 1} of {order.length}
          </Typography>
          <Button onClick={() => setCarrying(true)}>Carry</Button>
          <Button onClick={() => step(1)} disabled={!neighbour(order, shotId, 1)}>
            Next shot
          </Button>
        </Box>
      </Paper>
      {carrying && <CarryDialog shoot={shoot.id} from={detail.shot} shots={bench.shots} onClose={() => setCarrying(false)} />}
    </Box>
  );
}
