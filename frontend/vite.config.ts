import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  test: { setupFiles: ["vitest.setup.ts"] },
  build: {
    outDir: "../src/nebrel/web/static",
    emptyOutDir: true,
    chunkSizeWarningLimit: 1500,
  },
  css: { preprocessorOptions: { scss: { quietDeps: true, silenceDeprecations: ["import", "global-builtin", "color-functions"] } } },
  server: { proxy: { "/api": { target: "http://127.0.0.1:8765", changeOrigin: true } } },
});
