import "@fontsource-variable/figtree";

import { createTheme } from "@mui/material/styles";

/** One accent hue; everything that can stand beside a picture is neutral grey. */
export const accent = "#1d5c68";

export const theme = createTheme({
  cssVariables: true,
  palette: {
    mode: "light",
    primary: { main: accent },
    background: { default: "#f1f1f1", paper: "#fbfbfb" },
    text: { primary: "#1c1c1c", secondary: "#565656" },
    divider: "#d4d4d4",
    error: { main: "#9b2c1f" },
  },
  shape: { borderRadius: 3 },
  typography: {
    fontFamily: "'Figtree Variable', system-ui, sans-serif",
    fontSize: 13,
    h1: { fontSize: "1.45rem", fontWeight: 650, letterSpacing: "-0.01em" },
    h2: { fontSize: "1.05rem", fontWeight: 650 },
    button: { textTransform: "none", fontWeight: 600 },
  },
  components: {
    MuiCssBaseline: {
      styleOverrides: {
        body: { fontVariantNumeric: "tabular-nums" },
        "*:focus-visible, .Mui-focusVisible": { outline: `2px solid ${accent} !important`, outlineOffset: 2 },
      },
    },
    MuiButtonBase: { styleOverrides: { root: { fontFamily: "inherit" } } },
    MuiButton: { defaultProps: { disableElevation: true, size: "small" } },
    MuiTextField: { defaultProps: { size: "small" } },
    MuiSelect: { defaultProps: { size: "small" } },
    MuiTooltip: { defaultProps: { enterDelay: 500 } },
    MuiPaper: { defaultProps: { elevation: 0 }, styleOverrides: { root: { border: "1px solid #d4d4d4" } } },
  },
});
