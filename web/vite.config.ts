import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { brotliCompressSync, constants, gzipSync } from "node:zlib";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** Libraries name pages of theirs in error texts, and one a script that it could fetch: nothing that is served shall hold
 * an address elsewhere. */
function withoutAddresses(): Plugin {
  return {
    name: "without-addresses",
    generateBundle(_options, bundle) {
      for (const file of Object.values(bundle)) {
        if (file.type === "chunk") {
          file.code = file.code.replace(
            /https:\/\/(react\.dev|mantine\.dev|redux\.js\.org|redux-toolkit\.js\.org|bit\.ly|esm\.run|www\.npmjs\.com|prosemirror\.net|json-schema\.org)\//g,
            "$1: ",
          );
        }
      }
    },
  };
}

/** Every browser that runs this reads woff2: fonts in older formats are left out. */
function onlyWoff2(): Plugin {
  return {
    name: "only-woff2",
    enforce: "pre",
    transform(code, id) {
      if (!id.includes("katex") || !id.endsWith(".css")) return null;
      return code.replace(/,\s*url\([^)]*\.(?:woff|ttf)\)\s*format\(["'](?:woff|truetype)["']\)/g, "");
    },
  };
}

/** Each file that compresses well, compressed once here instead of at every request. */
function compressed(): Plugin {
  let folder = "dist";
  return {
    name: "compressed",
    apply: "build",
    configResolved(config) {
      folder = config.build.outDir;
    },
    closeBundle() {
      for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true })) {
        if (!entry.isFile() || !/\.(js|css|html|svg)$/.test(entry.name)) continue;
        const file = join(entry.parentPath, entry.name);
        const plain = readFileSync(file);
        const brotli = { params: { [constants.BROTLI_PARAM_QUALITY]: 11 } };
        writeFileSync(`${file}.br`, brotliCompressSync(plain, brotli));
        writeFileSync(`${file}.gz`, gzipSync(plain, { level: 9 }));
      }
    },
  };
}

export default defineConfig({
  plugins: [react(), onlyWoff2(), withoutAddresses(), compressed()],
  build: { target: "es2022", chunkSizeWarningLimit: 600 },
  server: { proxy: { "/api": "http://127.0.0.1:8080" } },
});
