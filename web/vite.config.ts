import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** Libraries name pages of theirs in error texts: nothing that is served shall hold an address elsewhere. */
function withoutAddresses(): Plugin {
  return {
    name: "without-addresses",
    generateBundle(_options, bundle) {
      for (const file of Object.values(bundle)) {
        if (file.type === "chunk") {
          file.code = file.code.replace(/https:\/\/(react|mantine)\.dev\//g, "$1: ");
        }
      }
    },
  };
}

export default defineConfig({
  plugins: [react(), withoutAddresses()],
  build: { target: "es2022", chunkSizeWarningLimit: 1200 },
  server: { proxy: { "/api": "http://127.0.0.1:8080" } },
});
