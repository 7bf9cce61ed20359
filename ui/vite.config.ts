import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  html: { cspNonce: "__CSP_NONCE__" },
  build: {
    outDir: "../web/webui/dist",
    emptyOutDir: true, // it lies outside this folder
    assetsInlineLimit: 0, // no data: addresses, the content policy stays 'self'
    modulePreload: { polyfill: false },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8420" } },
  test: { environment: "jsdom", globals: false },
});
