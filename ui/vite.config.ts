import { readFileSync } from "node:fs";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

/** What the body-landmark library loads when it is asked to propose points. */
const pose = "@mediapipe/pose";
const { version } = JSON.parse(readFileSync(`node_modules/${pose}/package.json`, "utf8"));
const poseFiles = [
  "pose.js",
  "pose_landmark_full.tflite",
  "pose_solution_packed_assets.data",
  "pose_solution_packed_assets_loader.js",
  "pose_solution_simd_wasm_bin.js",
  "pose_solution_simd_wasm_bin.wasm",
  "pose_web.binarypb",
];
const shipPose = () => ({
  name: "ship-pose",
  generateBundle(this: { emitFile: (f: { type: "asset"; fileName: string; source: Buffer }) => void }) {
    for (const f of poseFiles)
      this.emitFile({
        type: "asset",
        fileName: `pose/${version}/${f}`,
        source: readFileSync(`node_modules/${pose}/${f}`),
      });
  },
});

export default defineConfig({
  plugins: [react(), tailwindcss(), shipPose()],
  define: { __POSE__: JSON.stringify(version) },
  html: { cspNonce: "__CSP_NONCE__" },
  build: {
    outDir: "../web/webui/dist",
    emptyOutDir: true, // it lies outside this folder
    assetsInlineLimit: 0, // no data: addresses, the content policy stays 'self'
    modulePreload: { polyfill: false },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8420" } },
  test: {
    environment: "jsdom",
    globals: false,
    setupFiles: "./src/setup.ts",
    testTimeout: 120_000,
    hookTimeout: 120_000,
  },
});
