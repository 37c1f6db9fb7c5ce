import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  build: { chunkSizeWarningLimit: 1500 },
  server: { proxy: { "/api": "http://127.0.0.1:8470" } },
  test: { include: ["src/**/*.test.ts"] },
});
