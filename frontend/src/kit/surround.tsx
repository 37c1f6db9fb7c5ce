import { Box, Slider, Tooltip } from "@mui/material";
import { createContext, type ReactNode, useContext, useMemo, useState } from "react";

interface Surround {
  lightness: number;
  setLightness: (value: number) => void;
}

const Context = createContext<Surround>({ lightness: 70, setLightness: () => undefined });

/** The neutral grey that lies around every picture, chosen once for all stations. */
export function SurroundProvider({ children }: { children: ReactNode }) {
  const [lightness, setLightness] = useState(() => Number(localStorage.getItem("surround") ?? 72));
  const value = useMemo(
    () => ({
      lightness,
      setLightness: (next: number) => {
        localStorage.setItem("surround", String(next));
        setLightness(next);
      },
    }),
    [lightness],
  );
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

/** As a CSS colour with equal red, green and blue. */
export function useSurroundColour(): string {
  const level = Math.round((useContext(Context).lightness / 100) * 255);
  return `rgb(${level}, ${level}, ${level})`;
}

export function SurroundSlider() {
  const { lightness, setLightness } = useContext(Context);
  return (
    <Tooltip title="Lightness of the grey around pictures">
      <Box sx={{ width: 96, display: "flex", alignItems: "center" }}>
        <Slider
          size="small"
          aria-label="Lightness around pictures"
          min={12}
          max={100}
          value={lightness}
          onChange={(_, value) => setLightness(value as number)}
          sx={{ color: "#6a6a6a" }}
        />
      </Box>
    </Tooltip>
  );
}
