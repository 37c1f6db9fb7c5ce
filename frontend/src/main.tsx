import CssBaseline from "@mui/material/CssBaseline";
import { ThemeProvider } from "@mui/material/styles";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";

import { App } from "./App";
import { isAway } from "./kit/api/client";
import { SurroundProvider } from "./kit/surround";
import { theme } from "./kit/theme";

const client = new QueryClient({
  defaultOptions: {
    queries: {
      // What is only away comes back; a refusal stays a refusal.
      retry: (count, fault) => isAway(fault) && count < 100,
      retryDelay: 1500,
      staleTime: 2000,
      networkMode: "always",
    },
    mutations: { networkMode: "always" },
  },
});

const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <ThemeProvider theme={theme}>
        <CssBaseline />
        <QueryClientProvider client={client}>
          <SurroundProvider>
            <App />
          </SurroundProvider>
        </QueryClientProvider>
      </ThemeProvider>
    </StrictMode>,
  );
