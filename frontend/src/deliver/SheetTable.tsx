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
  return (
    <Tooltip title={finding.passed ? `Wanted: ${finding.wanted}` : `Wanted: ${finding.wanted}. To cure: ${finding.cure}.`}>
      <Box component="span" sx={{ color: finding.passed ? "text.primary" : "error.main", fontWeight: finding.passed ? 400 : 700 }}>
        {finding.passed ? "" : "✕ "}
        {finding.found}
      </Box>
    </Tooltip>
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
      <TableCell>
        <Typography sx={{ fontWeight: 600, fontSize: 13 }}>{row.file}</Typography>
        <VerdictMark verdict={row.verdict} /> <Box component="span" sx={{ color: row.state === "fails" || row.state === "redo" ? "error.main" : "text.secondary", fontSize: 12 }}>{stateWord[row.state]}</Box>
      </TableCell>
      <TableCell align="right">{row.bytes ? kilobytes(row.bytes) : ""}</TableCell>
      <TableCell align="right">{row.quality ?? ""}</TableCell>
      {rules.map((rule) => (
        <TableCell key={rule}>
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
            <TableCell align="right">Weight</TableCell>
            <TableCell align="right">Quality</TableCell>
            {sheet.rules.map((rule) => (
              <TableCell key={rule}>{rule}</TableCell>
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
