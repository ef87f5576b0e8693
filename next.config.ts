import type { NextConfig } from "next";

const config: NextConfig = {
  reactStrictMode: false,
  poweredByHeader: false,
  serverExternalPackages: ["postgres", "archiver", "postal-mime", "@node-rs/argon2", "prom-client"],
  experimental: { optimizePackageImports: ["radix-ui"] },
  headers: async () => [
    {
      source: "/((?!api/).*)",
      headers: [
        { key: "x-content-type-options", value: "nosniff" },
        { key: "referrer-policy", value: "no-referrer" },
      ],
    },
  ],
};

export default config;
