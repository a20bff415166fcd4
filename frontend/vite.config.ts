import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  build: { chunkSizeWarningLimit: 900 },
  test: { environment: "jsdom", setupFiles: ["src/test-setup.ts"], testTimeout: 60_000 },
});
