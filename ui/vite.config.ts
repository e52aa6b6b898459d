import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { chunkSizeWarningLimit: 1600, target: "es2022" },
  server: { proxy: { "/api": "http://127.0.0.1:8765" } },
  test: {
    environment: "jsdom",
    // A fresh realm for each file without a fresh process for each.
    pool: "vmThreads",
    include: ["src/**/*.test.{ts,tsx}"],
    setupFiles: "src/testing/setup.ts",
    // A test that hangs is ended; one that shares its processor with others is not.
    testTimeout: 30_000,
  },
});
