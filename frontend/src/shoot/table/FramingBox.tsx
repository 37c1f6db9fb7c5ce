import "react-image-crop/dist/ReactCrop.css";

import { Box } from "@mui/material";
import ReactCrop, { type PercentCrop } from "react-image-crop";

import { accent } from "../../kit/theme";
import { boxOf, cropOf, type Framing } from "./framing.logic";

/** The part of the view that is kept. With `onChange` it can be dragged, by its corners and sides too, or moved by arrow keys. */
export function FramingBox({ framing, onChange }: { framing: Framing; onChange?: (framing: Framing) => void }) {
  const told = (_: unknown, crop: PercentCrop) => onChange && crop.width > 0 && crop.height > 0 && onChange(boxOf(crop));
  return (
    <Box
      data-testid="framing-box"
      sx={{
        position: "absolute",
        inset: 0,
        pointerEvents: onChange ? "auto" : "none",
        "& .ReactCrop": { width: "100%", height: "100%", "--rc-focus-color": accent, "--rc-drag-handle-bg-colour": "#fff", "--rc-border-color": "#1c1c1c" },
        "& .ReactCrop__child-wrapper": { height: "100%" },
        // One plain line, still: nothing moves near the product.
        "& .ReactCrop .ReactCrop__crop-selection": { animation: "none", backgroundImage: "none", outline: "1.5px solid #1c1c1c", boxShadow: "0 0 0 3px rgb(255 255 255 / .7)" },
        "& .ReactCrop__crop-mask": { opacity: onChange ? 0.7 : 0.45 },
      }}
    >
      <ReactCrop
        crop={cropOf(framing)}
        onChange={told}
        disabled={!onChange}
        keepSelection
        ariaLabels={{
          cropArea: "Framing box: arrow keys move it",
          nwDragHandle: "Upper left corner",
          nDragHandle: "Upper side",
          neDragHandle: "Upper right corner",
          eDragHandle: "Right side",
          seDragHandle: "Lower right corner",
          sDragHandle: "Lower side",
          swDragHandle: "Lower left corner",
          wDragHandle: "Left side",
        }}
      >
        <Box sx={{ width: "100%", height: "100%" }} />
      </ReactCrop>
    </Box>
  );
}
