import { Box, Checkbox, Table, TableBody, TableCell, TableHead, TableRow, Tooltip, Typography } from "@mui/material";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef } from "react";

import type { Sheet, SheetRow } from "../kit/api/client";
import { kilobytes } from "../kit/format";
import { Picture } from "../kit/Picture";
import { VerdictMark } from "../kit/VerdictMark";
import { canBeSent, stateWord } from "./deliver.logic";

const ROW_PX = 62;

function Finding({ row, rule }: { row: SheetRow; rule: string }) {
  const finding = row.findings.find((item) => item.rule === rule);
  if (!finding) return <span>–</span>;
  const said = finding.passed ? `${finding.found} (wanted: ${finding.wanted})` : `${finding.found}, wanted: ${finding.wanted}. To cure: ${finding.cure}.`;
  return (
    <Tooltip title={said}>
      <Box
        component="span"
        role="img"
        aria-label={`${rule}: ${finding.passed ? "kept" : "broken"}, ${said}`}
        sx={{ px: 0.5, fontWeight: 700, fontSize: 11.5, ...(finding.passed ? { color: "text.secondary" } : { color: "#fff", bgcolor: "error.main" }) }}
      >
        {finding.passed ? "kept" : "broken"}
      </Box>
    </Tooltip>
  );
}

/** The first broken rule and its cure, in words; how many more there are. */
function FirstBroken({ row }: { row: SheetRow }) {
  const broken = row.findings.filter((finding) => !finding.passed);
  const first = broken[0];
  if (!first || row.state !== "fails") return null;
  return (
    <Box sx={{ color: "error.main", fontSize: 11.5, overflow: "hidden", textOverflow: "ellipsis" }} title={`${first.rule}: ${first.found}; ${first.cure}`}>
      {first.rule}: {first.found}
      {broken.length > 1 ? `, and ${broken.length - 1} more` : ""}
    </Box>
  );
}

function Line({ row, rules, chosen, onToggle }: { row: SheetRow; rules: string[]; chosen: boolean; onToggle: () => void }) {
  return (
    <TableRow sx={{ height: ROW_PX, "& td": { py: 0.25, px: 1, fontSize: 12.5, whiteSpace: "nowrap" } }}>
      <TableCell padding="checkbox">
        <Checkbox size="small" checked={chosen} disabled={!canBeSent(row)} onChange={onToggle} slotProps={{ input: { "aria-label": `Send ${row.file}` } }} />
      </TableCell>
      <TableCell sx={{ width: 58 }}>
        <Box sx={{ width: 52 }}>
          <Picture src={row.picture} alt={row.file} />
        </Box>
      </TableCell>
      <TableCell sx={{ maxWidth: { xs: 240, xl: "none" }, overflow: "hidden" }}>
        <Typography sx={{ fontWeight: 600, fontSize: 13, overflow: "hidden", textOverflow: "ellipsis" }} title={row.file}>
          {row.file}
        </Typography>
        <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", columnGap: 0.75 }}>
          <VerdictMark verdict={row.verdict} />
          <Box component="span" sx={{ color: row.state === "fails" || row.state === "redo" ? "error.main" : "text.secondary", fontSize: 12 }}>{stateWord[row.state]}</Box>
        </Box>
        <FirstBroken row={row} />
      </TableCell>
      <TableCell align="right">{row.bytes ? kilobytes(row.bytes) : ""}</TableCell>
      <TableCell align="right">{row.quality ?? ""}</TableCell>
      {rules.map((rule) => (
        <TableCell key={rule} align="center" sx={{ px: "2px !important" }}>
          <Finding row={row} rule={rule} />
        </TableCell>
      ))}
    </TableRow>
  );
}

/** The sheet: rows are pictures, columns are rules. */
export function SheetTable({ sheet, chosen, onChoose }: { sheet: Sheet; chosen: number[]; onChoose: (ids: number[]) => void }) {
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({ count: sheet.rows.length, getScrollElement: () => scroller.current, estimateSize: () => ROW_PX, overscan: 8 });
  const items = virtual.getVirtualItems();
  const before = items[0]?.start ?? 0;
  const after = virtual.getTotalSize() - (items[items.length - 1]?.end ?? 0);
  const able = sheet.rows.filter(canBeSent).map((row) => row.shot_id);
  const toggle = (id: number) => onChoose(chosen.includes(id) ? chosen.filter((other) => other !== id) : [...chosen, id]);
  return (
    <Box ref={scroller} sx={{ flex: 1, overflow: "auto", bgcolor: "background.paper", border: 1, borderColor: "divider" }}>
      <Table size="small" stickyHeader>
        <TableHead>
          <TableRow sx={{ "& th": { fontSize: 12, whiteSpace: "nowrap", px: 1, py: 0.5, color: "text.secondary" } }}>
            <TableCell padding="checkbox">
              <Checkbox
                size="small"
                checked={chosen.length === able.length && able.length > 0}
                indeterminate={chosen.length > 0 && chosen.length < able.length}
                onChange={() => onChoose(chosen.length === able.length ? [] : able)}
                slotProps={{ input: { "aria-label": "Send all" } }}
              />
            </TableCell>
            <TableCell />
            <TableCell>File</TableCell>
            <TableCell align="right" sx={{ width: 76 }}>Weight</TableCell>
            <TableCell align="right" sx={{ width: 56 }}>Quality</TableCell>
            {sheet.rules.map((rule) => (
              <TableCell key={rule} align="center" sx={{ whiteSpace: "normal !important", lineHeight: 1.15, width: 46, px: "2px !important" }}>
                {rule}
              </TableCell>
            ))}
          </TableRow>
        </TableHead>
        <TableBody>
          {before > 0 && <tr style={{ height: before }} />}
          {items.map((item) => {
            const row = sheet.rows[item.index] as SheetRow;
            return <Line key={row.shot_id} row={row} rules={sheet.rules} chosen={chosen.includes(row.shot_id)} onToggle={() => toggle(row.shot_id)} />;
          })}
          {after > 0 && <tr style={{ height: after }} />}
        </TableBody>
      </Table>
    </Box>
  );
}
