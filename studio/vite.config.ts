import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  root: import.meta.dirname,
  plugins: [react(), tailwindcss()],
  worker: { format: "es" },
  // Data URLs would need a looser policy for fonts.
  build: { target: "es2022", assetsInlineLimit: 0, chunkSizeWarningLimit: 5000 },
  server: {
    proxy: { "/api": "http://127.0.0.1:4280" },
    // As the server itself has it: page, workers and audio thread share memory.
    headers: {
      "Cross-Origin-Opener-Policy": "same-origin",
      "Cross-Origin-Embedder-Policy": "require-corp",
    },
  },
});
