import tailwind from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwind()],
  build: { assetsInlineLimit: 0, target: "es2022", modulePreload: { polyfill: false } },
  test: { environment: "jsdom", globals: false, setupFiles: ["src/test-setup.ts"] },
});
