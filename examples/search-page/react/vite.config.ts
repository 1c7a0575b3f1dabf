import { defineConfig } from "vite";

export default defineConfig({
  base: "./",
  oxc: { jsx: { runtime: "automatic" } },
  resolve: { dedupe: ["react", "react-dom"] },
});
