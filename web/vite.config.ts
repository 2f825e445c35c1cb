import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

// In development the API is the one that `./aftershower up` serves.
const server = "http://127.0.0.1:8620";

export default defineConfig(({ command }) => ({
  base: command === "build" ? "/static/" : "/",
  plugins: [react(), tailwindcss()],
  build: { target: "es2022", assetsInlineLimit: 0, modulePreload: { polyfill: false } },
  server: { proxy: { "/api": server, "/_allauth": server } },
  test: { include: ["src/**/*.test.{ts,tsx}", "scripts/*.test.mjs"] },
}));
