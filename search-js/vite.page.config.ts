import { defineConfig } from "vite";

// The ready page, as the service delivers it below /pages/.
export default defineConfig({
  root: "src/page",
  base: "/pages/",
  oxc: { jsx: { runtime: "automatic" } },
  build: { outDir: "../../dist-page", emptyOutDir: true },
});
