import { Box } from "@mui/material";
import { useState } from "react";

import { useSurroundColour } from "./surround";

/** A picture that keeps its place while it loads; nothing jumps when it arrives. */
export function Picture({ src, alt, ratio = 1, fit = "contain", bare = false }: { src: string | null; alt: string; ratio?: number; fit?: "contain" | "cover"; bare?: boolean }) {
  const ground = useSurroundColour();
  const [shown, setShown] = useState<string | null>(null);
  return (
    <Box sx={{ position: "relative", width: "100%", aspectRatio: String(ratio), bgcolor: bare ? "transparent" : ground, overflow: "hidden" }}>
      {src && (
        <Box
          component="img"
          src={src}
          alt={alt}
          draggable={false}
          onLoad={() => setShown(src)}
          sx={{ position: "absolute", inset: 0, width: "100%", height: "100%", objectFit: fit, opacity: shown ? 1 : 0, transition: "opacity .12s" }}
        />
      )}
    </Box>
  );
}
