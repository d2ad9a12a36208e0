import { PACKED_ADDRESSES } from "./src/api/reads.ts";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { VitePWA } from "vite-plugin-pwa";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [
    react(),
    tailwindcss(),
    VitePWA({
      injectRegister: false,
      registerType: "autoUpdate",
      manifest: {
        name: "Cultrix",
        short_name: "Cultrix",
        description: "Replicated on-farm strip trials, from the question to a verdict on yield and money",
        start_url: "/",
        display: "standalone",
        background_color: "#f1f5f4",
        theme_color: "#14191b",
        icons: [
          { src: "/flag-192.png", sizes: "192x192", type: "image/png" },
          { src: "/flag-512.png", sizes: "512x512", type: "image/png" },
          { src: "/flag.svg", sizes: "any", type: "image/svg+xml" },
        ],
      },
      workbox: {
        inlineWorkboxRuntime: true,
        globPatterns: ["**/*.{js,css,html,svg,png,woff2}"],
        navigateFallback: "/index.html",
        navigateFallbackDenylist: [/^\/api\//, /^\/static\//, /^\/shared\//],
        cleanupOutdatedCaches: true,
        skipWaiting: true,
        clientsClaim: true,
        runtimeCaching: [
          {
            // a pattern, not a function: it is written into the worker as it stands
            urlPattern: PACKED_ADDRESSES,
            handler: "NetworkFirst",
            options: { cacheName: "cultrix-pack", cacheableResponse: { statuses: [200] }, expiration: { maxEntries: 400 } },
          },
        ],
      },
    }),
  ],
  base: "/",
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 800 },
  server: { proxy: { "/api": "http://127.0.0.1:8470" } },
  test: { environment: "jsdom", include: ["src/**/*.test.{ts,tsx}"] },
});
