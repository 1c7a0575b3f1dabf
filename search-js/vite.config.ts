/// <reference types="vitest/config" />
import { defineConfig } from "vite";

export default defineConfig({
  build: {
    lib: {
      entry: { index: "src/index.ts", react: "src/react/index.ts" },
      formats: ["es"],
    },
    rollupOptions: { external: ["react", "react/jsx-runtime"] },
  },
  test: { environment: "jsdom", setupFiles: "src/testing.ts", testTimeout: 60_000 },
});
