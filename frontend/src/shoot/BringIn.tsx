import { Box, Button, Paper, Typography } from "@mui/material";
import { useDropzone } from "react-dropzone";

import type { Shoot } from "../kit/api/client";
import { plural } from "../kit/format";
import { Picture } from "../kit/Picture";
import { DropList } from "./DropList";
import { useDrop } from "./useDrop";
import { Waiting } from "./Waiting";

function Backdrop({ shoot, onFile }: { shoot: Shoot; onFile: (files: File[]) => void }) {
  const { getInputProps, open } = useDropzone({ onDrop: onFile, multiple: false, noClick: true, noDrag: true });
  const frame = shoot.backdrop;
  return (
    <Paper sx={{ p: 1.5 }}>
      <Typography variant="h2">Backdrop frame</Typography>
      {frame ? (
        <>
          <Box sx={{ my: 1 }}>
            <Picture src={frame.preview} alt="Backdrop frame" ratio={frame.width / frame.height} />
          </Box>
          <Typography noWrap title={frame.file_name}>
            {frame.file_name}
          </Typography>
          <Typography color="text.secondary">
            {frame.width} x {frame.height} px
          </Typography>
        </>
      ) : (
        <Typography color="text.secondary" sx={{ my: 1 }}>
          The empty set, shot with the same camera setting. Every cut is made against it. A file called backdrop or empty is taken for it.
        </Typography>
      )}
      <input {...getInputProps({ "aria-label": "Backdrop frame file" })} />
      <Button variant={frame ? "text" : "outlined"} onClick={open} sx={{ mt: 0.5 }}>
        {frame ? "Use another file" : "Choose a file"}
      </Button>
    </Paper>
  );
}

/** Frames from elsewhere: dropped, matched by name, or told which shot they are. */
export function BringIn({ shoot }: { shoot: Shoot }) {
  const drop = useDrop(shoot.id);
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({ onDrop: (files) => void drop.send(files), noClick: true, noKeyboard: true });
  return (
    <Box {...getRootProps()} sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "minmax(0, 1fr) 300px", gap: 2, p: 2, overflow: "auto" }}>
      <Box>
        <Paper sx={{ p: 3, mb: 2, textAlign: "center", borderStyle: "dashed", borderWidth: 2, borderColor: isDragActive ? "primary.main" : "#a8a8a8", bgcolor: isDragActive ? "#fff" : "transparent" }}>
          <Typography variant="h1">{isDragActive ? "Let go to bring them in" : "Drop a folder of frames here"}</Typography>
          <Typography color="text.secondary" sx={{ my: 1 }}>
            JPEG, PNG, TIFF or WebP. A name like HT-204_front.jpg finds its shot by itself; the others wait here until you say which shot they are.
          </Typography>
          <input {...getInputProps({ "aria-label": "Frame files" })} />
          <Button variant="contained" onClick={open}>
            Choose files
          </Button>
        </Paper>
        <DropList files={drop.files} onClear={drop.clear} />
        {shoot.waiting.length > 0 && <Waiting shoot={shoot} />}
        {drop.files.length === 0 && shoot.waiting.length === 0 && shoot.counts.with_frame > 0 && (
          <Typography color="text.secondary">
            {plural(shoot.counts.with_frame, "shot has a frame", "shots have a frame")}; {shoot.counts.shots - shoot.counts.with_frame || "none"} without one.
          </Typography>
        )}
      </Box>
      <Backdrop shoot={shoot} onFile={(files) => void drop.send(files, "backdrop")} />
    </Box>
  );
}
