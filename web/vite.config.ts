import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  build: {
    chunkSizeWarningLimit: 1500,
    rollupOptions: { input: ["index.html", "player.html"] },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8420", "/player/sticks": "http://127.0.0.1:8420" } },
});
