/** How the interface is built, served while it is worked on, and tested. */
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  build: {
    chunkSizeWarningLimit: 1500,
    rollupOptions: { input: ["index.html", "player.html"] },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8420", "/player/sticks": "http://127.0.0.1:8420" } },
  // A loaded machine may take many times as long; only what hangs is to fail by time.
  test: { testTimeout: 120_000, setupFiles: ["src/testing-patience.ts"] },
});
