import tailwind from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

// Nothing is inlined: the content security policy lets in files of our own only.
export default defineConfig({
  plugins: [react(), tailwind()],
  build: { assetsInlineLimit: 0, modulePreload: { polyfill: false }, emptyOutDir: false, target: "es2023" },
  server: { proxy: { "/api": "http://127.0.0.1:8417" } },
});
