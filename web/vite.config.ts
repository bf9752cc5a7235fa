import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { withNotices } from "./notices.mjs";

export default defineConfig({
  plugins: [react(), withNotices()],
  build: {
    outDir: "../src/nebrel/api/static",
    emptyOutDir: true,
    chunkSizeWarningLimit: 1200,
  },
  css: {
    preprocessorOptions: {
      scss: { quietDeps: true, silenceDeprecations: ["import", "global-builtin", "color-functions", "if-function"] },
    },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8642", "/help": "http://127.0.0.1:8642" } },
});
