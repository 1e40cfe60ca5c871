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
    proxy: { "^/(api|enter|sign-in|sign-out|proofs)/": server, "/live": { target: server, ws: true } },
  },
});
