import { Box, ButtonBase, Typography } from "@mui/material";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useMemo, useRef } from "react";
import { useNavigate } from "react-router";

import type { Shoot, Shot } from "../kit/api/client";
import { Picture } from "../kit/Picture";
import { useShootId } from "../kit/ShootFrame";
import { useWidth } from "../kit/useWidth";
import { VerdictMark } from "../kit/VerdictMark";
import { type BoardCell, boardRows, type BoardRow, cellLabel, cellPicture, cellShot, productsAcross } from "./board.logic";

const ROW_PX = 196;

function Cell({ cell }: { cell: BoardCell }) {
  const go = useNavigate();
  const shootId = useShootId();
  const shot = cellShot(cell);
  if (!shot) return <Box sx={{ width: 150 }} />;
  const { src, kind } = cellPicture(shot);
  const label = `${shot.code} ${shot.angle}`;
  return (
    <ButtonBase
      aria-label={label}
      onClick={() => void go(shot.frame ? `/shoots/${shootId}/cut/${shot.id}` : `/shoots/${shootId}/shoot?shot=${shot.id}`)}
      sx={{ width: 150, flexDirection: "column", alignItems: "stretch", textAlign: "left", borderRadius: 1, "&:hover img": { opacity: 0.9 } }}
    >
      {src ? (
        <Picture src={src} alt={label} />
      ) : (
        <Box sx={{ aspectRatio: "1", border: "1px dashed #9a9a9a", display: "grid", placeItems: "center", color: "text.secondary", fontSize: 12 }}>no frame yet</Box>
      )}
      <Box sx={{ display: "flex", justifyContent: "space-between", pt: 0.5, minHeight: 22 }}>
        <Typography sx={{ fontSize: 12, color: "text.secondary" }}>{cellLabel(cell)}</Typography>
        {kind !== "nothing" && (
          <VerdictMark verdict={shot.cut?.verdict ?? null} reasons={shot.problem ? [shot.problem] : shot.cut?.reasons} outdated={shot.cut?.current === false} />
        )}
      </Box>
    </ButtonBase>
  );
}

function ProductOnBoard({ row }: { row: BoardRow }) {
  return (
    <Box sx={{ display: "flex", gap: 1.5, flex: 1, minWidth: 0 }}>
      <Box sx={{ width: 150, flexShrink: 0, pt: 0.5 }}>
        <Typography sx={{ fontWeight: 700 }}>{row.code}</Typography>
        <Typography sx={{ lineHeight: 1.3 }}>{row.name}</Typography>
        <Typography sx={{ fontSize: 12, color: "text.secondary" }}>{row.material === "auto" ? "" : row.material}</Typography>
      </Box>
      {row.cells.map((cell) => (
        <Cell key={cell.column} cell={cell} />
      ))}
    </Box>
  );
}

/** Rows are products, columns are angles; on a wide screen several products stand beside each other. */
export function Board({ shoot, shots }: { shoot: Shoot; shots: Shot[] }) {
  const scroller = useRef<HTMLDivElement>(null);
  const width = useWidth(scroller);
  const rows = useMemo(() => boardRows(shots, shoot.angles), [shots, shoot.angles]);
  const across = productsAcross(width, rows[0]?.cells.length ?? 1);
  const virtual = useVirtualizer({ count: Math.ceil(rows.length / across), getScrollElement: () => scroller.current, estimateSize: () => ROW_PX, overscan: 4 });
  return (
    <Box ref={scroller} sx={{ flex: 1, overflow: "auto", px: 2, pb: 2 }} role="table" aria-label="Shot board">
      <Box sx={{ height: virtual.getTotalSize(), position: "relative" }}>
        {virtual.getVirtualItems().map((line) => (
          <Box
            key={line.key}
            role="row"
            sx={{ position: "absolute", top: 0, left: 0, right: 0, height: ROW_PX, transform: `translateY(${line.start}px)`, display: "flex", gap: 3, py: 1, borderTop: 1, borderColor: "divider" }}
          >
            {Array.from({ length: across }, (_, k) => rows[line.index * across + k]).map((row, k) =>
              row ? <ProductOnBoard key={row.productId} row={row} /> : <Box key={`gap-${k}`} sx={{ flex: 1 }} />,
            )}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
