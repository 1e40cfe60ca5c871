import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

const server = process.env.NINEGLASS_SERVER ?? "http://127.0.0.1:8420";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { target: "es2023", chunkSizeWarningLimit: 1200 },
  server: {
    host: "127.0.0.1",
    port: Number(process.env.NINEGLASS_WEB_PORT ?? 8430),
    strictPort: true,
    // All but the addresses of places, each with the id of a material or without, and what vite serves by itself.
    proxy: {
      "^/(api|enter|join|admin|sign-in|sign-out|files|materials|stages|proofs|handovers|devices|static)/": server,
      "^/(trials|pictures)/[^/]+/[^/]+": server,
      "/live": { target: server, ws: true },
    },
  },
});
