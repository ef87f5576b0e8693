import type { MetadataRoute } from "next";

/** W3C Web Application Manifest: what a device that installs the app needs to know. */
export default function manifest(): MetadataRoute.Manifest {
  return {
    id: "/",
    name: "Tachyne",
    short_name: "Tachyne",
    description: "Clear large batches of e-mail with your own macros",
    start_url: "/",
    scope: "/",
    display: "standalone",
    background_color: "#eef2f1",
    theme_color: "#eef2f1",
    icons: [
      { src: "/icon.svg", sizes: "any", type: "image/svg+xml" },
      { src: "/icon-192.png", sizes: "192x192", type: "image/png" },
      { src: "/icon-512.png", sizes: "512x512", type: "image/png" },
      { src: "/icon-whole-512.png", sizes: "512x512", type: "image/png", purpose: "maskable" },
    ],
    shortcuts: [
      { name: "New message", url: "/compose" },
      { name: "Ledger", url: "/ledger" },
    ],
  };
}
