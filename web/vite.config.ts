import { readdir, readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { promisify } from "node:util";
import { brotliCompress, gzip } from "node:zlib";

import tailwind from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** packed lays scripts and styles down packed as well, so that nobody packs them while they are served. */
function packed(): Plugin {
  let dir = "";
  return {
    name: "packed",
    apply: "build",
    configResolved: (c) => {
      dir = join(c.root, c.build.outDir, "assets");
    },
    closeBundle: async () => {
      for (const name of await readdir(dir)) {
        if (!/\.(js|css|svg)$/.test(name)) continue;
        const text = await readFile(join(dir, name));
        await writeFile(join(dir, name + ".br"), await promisify(brotliCompress)(text));
        await writeFile(join(dir, name + ".gz"), await promisify(gzip)(text, { level: 9 }));
      }
    },
  };
}

// Nothing is inlined: the content security policy lets in files of our own only.
export default defineConfig({
  plugins: [react(), tailwind(), packed()],
  build: { assetsInlineLimit: 0, modulePreload: { polyfill: false }, emptyOutDir: false, target: "es2023" },
  server: { proxy: { "/api": "http://127.0.0.1:8417" } },
});
