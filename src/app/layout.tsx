import type { Metadata, Viewport } from "next";
import type { ReactNode } from "react";
import { THEME_SCRIPT } from "@/ui/rack/theme-script";
import { Shell } from "@/ui/shell";
import "./globals.css";

export const metadata: Metadata = {
  title: "Tachyne",
  description: "Clear large batches of e-mail with your own macros",
};
export const viewport: Viewport = {
  width: "device-width",
  initialScale: 1,
  viewportFit: "cover",
  // What is typed into stays in sight above the keys of a phone.
  interactiveWidget: "resizes-content",
  themeColor: [
    { media: "(prefers-color-scheme: light)", color: "#eef2f1" },
    { media: "(prefers-color-scheme: dark)", color: "#151a19" },
  ],
};

export default function Layout({ children }: { readonly children: ReactNode }) {
  return (
    <html lang="en" suppressHydrationWarning>
      <head>
        <script dangerouslySetInnerHTML={{ __html: THEME_SCRIPT }} />
        {/* What every window asks for first is on its way while the programs are still being read. */}
        <link rel="preload" as="fetch" href="/api/v1/home" crossOrigin="anonymous" />
      </head>
      <body>
        <Shell>{children}</Shell>
      </body>
    </html>
  );
}
