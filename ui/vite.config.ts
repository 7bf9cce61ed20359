import { readFileSync } from "node:fs";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { VitePWA } from "vite-plugin-pwa";
import { defineConfig } from "vitest/config";
import { lingui } from "./scripts/lingui";

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

/** The files the runner's phone needs, found as they are made. */
const pocketFiles = new Set<string>();
type Chunk = {
  type: string;
  fileName: string;
  name?: string;
  imports?: string[];
  dynamicImports?: string[];
  viteMetadata?: { importedCss?: Set<string> };
};
const findPocketFiles = () => ({
  name: "find-pocket-files",
  generateBundle(_: unknown, bundle: Record<string, Chunk>) {
    const take = (file: string) => {
      const c = bundle[file];
      if (!c || pocketFiles.has(file)) return;
      pocketFiles.add(file);
      for (const css of c.viteMetadata?.importedCss ?? []) pocketFiles.add(css);
      for (const i of [...(c.imports ?? []), ...(c.dynamicImports ?? [])]) take(i);
    };
    for (const c of Object.values(bundle)) {
      if (c.type === "chunk" && c.name === "pocket") take(c.fileName);
      if (
        c.type === "asset" &&
        /latin-(wght|standard).*\.woff2$/.test(c.fileName) &&
        !/latin-ext/.test(c.fileName)
      )
        pocketFiles.add(c.fileName);
    }
  },
});

export default defineConfig({
  plugins: [
    lingui(),
    react(),
    tailwindcss(),
    shipPose(),
    findPocketFiles(),
    // The runner's phone alone: its page, script, styles and fonts lie on the phone.
    VitePWA({
      strategies: "injectManifest",
      srcDir: "src",
      filename: "pocket-worker.ts",
      injectRegister: false,
      manifest: false,
      injectManifest: {
        globPatterns: ["pocket.html", "icon.svg", "icon-*.png", "pocket.webmanifest", "assets/*"],
        manifestTransforms: [
          (list) => ({
            manifest: list.filter((e) => !e.url.startsWith("assets/") || pocketFiles.has(e.url)),
            warnings: [],
          }),
        ],
      },
    }),
  ],
  define: { __POSE__: JSON.stringify(version) },
  html: { cspNonce: "__CSP_NONCE__" },
  build: {
    outDir: "../web/webui/dist",
    emptyOutDir: true, // it lies outside this folder
    assetsInlineLimit: 0, // no data: addresses, the content policy stays 'self'
    modulePreload: { polyfill: false },
    rolldownOptions: { input: { main: "index.html", pocket: "pocket.html" } },
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
