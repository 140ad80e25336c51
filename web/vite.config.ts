import { fileURLToPath } from "node:url";
import vue from "@vitejs/plugin-vue";
import { defineConfig } from "vitest/config";

const file = (path: string) => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  plugins: [vue()],
  resolve: { alias: { "@": fileURLToPath(new URL("./src", import.meta.url)) } },
  build: {
    chunkSizeWarningLimit: 900,
    // The player's page is a bundle of its own: whoever opens a link loads nothing of the desk.
    rollupOptions: { input: { index: file("./index.html"), player: file("./player.html") } },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8000", "/static": "http://127.0.0.1:8000" } },
  test: { environment: "jsdom" },
});
