/// <reference types="vitest/config" />
import babel from "@rolldown/plugin-babel";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { marked } from "./texts.mjs";

const SERVICE = "http://127.0.0.1:7077";

export default defineConfig({
  plugins: [babel({ plugins: [marked] }), react(), tailwindcss()],
  server: {
    proxy: Object.fromEntries(
      // The service takes changes from pages of its own only.
      ["/api", "/search", "/pages"].map((path) => [
        path,
        { target: SERVICE, changeOrigin: true, headers: { origin: SERVICE } },
      ]),
    ),
  },
  test: { environment: "jsdom", setupFiles: "src/testing.ts", testTimeout: 60_000 },
});
