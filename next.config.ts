import type { NextConfig } from "next";

/** Pages load nothing from anywhere else, and may not be put into another page. */
const POLICY = [
  "default-src 'self'",
  "script-src 'self' 'unsafe-inline'",
  "style-src 'self' 'unsafe-inline'",
  "img-src 'self' data: blob: https: http:",
  "worker-src 'self' blob:",
  "frame-src 'self'",
  "frame-ancestors 'none'",
  "base-uri 'none'",
  "form-action 'self'",
].join("; ");

const config: NextConfig = {
  reactStrictMode: false,
  poweredByHeader: false,
  serverExternalPackages: ["postgres", "archiver", "postal-mime", "@node-rs/argon2", "prom-client"],
  experimental: { optimizePackageImports: ["radix-ui"] },
  headers: async () => [
    {
      source: "/((?!api/).*)",
      headers: [
        { key: "content-security-policy", value: POLICY },
        { key: "x-content-type-options", value: "nosniff" },
        { key: "referrer-policy", value: "no-referrer" },
      ],
    },
  ],
};

export default config;
