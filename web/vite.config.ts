import { fileURLToPath } from "node:url";
import { lingui } from "@lingui/vite-plugin";
import tailwind from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { VitePWA } from "vite-plugin-pwa";
import { defineConfig } from "vitest/config";
import { engineKey } from "./engine/build.mjs";
import { DEV_KEY, devEngine } from "./engine/dev.mjs";

const INSTALLED = ["index.html", "assets/*.{js,css,woff2,png}", "engine/*/*.{mjs,wasm,zip,json}", "*.{svg,png,webmanifest}"];
const LARGEST_FILE = 16 * 1024 * 1024; // the engine; the default limit would leave it out without a word

// While developing (bin/dev): where the server listens. What the browser asks of it goes there.
const SERVER_PORT = Number(process.env["OFEN_SERVER_PORT"] ?? 8000);
const TO_SERVER = ["/api", "/shared", "/shared.css", "/calendar", "/static"];

export default defineConfig(({ command }) => ({
  define: { __ENGINE_KEY__: JSON.stringify(command === "serve" ? DEV_KEY : engineKey()) },
  server: {
    host: "127.0.0.1",
    port: Number(process.env["OFEN_PORT"] ?? 5173),
    strictPort: true,
    // The guide and its pictures are those of the docs.
    fs: { allow: [".."] },
    // The server sees the page's own address, as it does in earnest: else it takes what the page sends for somebody else's.
    proxy: Object.fromEntries(TO_SERVER.map((path) => [path, { target: `http://127.0.0.1:${SERVER_PORT}`, changeOrigin: false }])),
  },
  resolve: { alias: { "@words": fileURLToPath(new URL("src/words", import.meta.url)) } },
  plugins: [
    devEngine(SERVER_PORT),
    // A sentence stays in the code it is read in, so that British English needs no catalogue at run time.
    lingui({ configPath: "lingui.american.config.ts", macroTransform: { macro: { descriptorFields: "message" } } }),
    react({ jsxImportSource: "@words" }),
    tailwind(),
    VitePWA({
      injectRegister: null,
      registerType: "prompt",
      filename: "sw.js",
      manifest: {
        name: "Ofen",
        short_name: "Ofen",
        description: "Heat and power by fuel: sized, supplied, commissioned, logged, with the reason for every number.",
        id: "/",
        start_url: "/",
        display: "standalone",
        background_color: "#f5f1e8",
        theme_color: "#efe9dc",
        icons: [
          { src: "/icon-192.png", sizes: "192x192", type: "image/png" },
          { src: "/icon-512.png", sizes: "512x512", type: "image/png" },
          { src: "/icon-maskable-512.png", sizes: "512x512", type: "image/png", purpose: "maskable" },
        ],
      },
      workbox: {
        globPatterns: INSTALLED,
        globIgnores: ["**/*.{br,gz}"],
        maximumFileSizeToCacheInBytes: LARGEST_FILE,
        dontCacheBustURLsMatching: /^(assets|engine)\//,
        navigateFallback: "/index.html",
        // What the server answers itself, also to whoever has the application installed.
        navigateFallbackDenylist: [/^\/(api|shared|calendar)\//],
        cleanupOutdatedCaches: true,
        inlineWorkboxRuntime: true,
        sourcemap: false,
      },
    }),
  ],
  worker: { format: "es" },
  build: { assetsInlineLimit: 0, target: "es2022", modulePreload: { polyfill: false } },
  // A machine that many share may stand still for a while.
  test: { environment: "jsdom", globals: false, setupFiles: ["src/test-setup.ts"], testTimeout: 60_000 },
}));
