import babel from "@rolldown/plugin-babel";
import tailwindcss from "@tailwindcss/vite";
import react, { reactCompilerPreset } from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  // The compiler keeps what a component made of values that did not change: the fields stay still beside the moving picture.
  plugins: [react(), babel({ presets: [reactCompilerPreset()] }), tailwindcss()],
  build: { outDir: "../halvex/web/static", emptyOutDir: true, assetsInlineLimit: 0 },
});
