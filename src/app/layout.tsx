import type { Metadata, Viewport } from "next";
import type { ReactNode } from "react";
import { THEME_SCRIPT } from "@/ui/rack/theme-script";
import { Shell } from "@/ui/shell";
import "./globals.css";

export const metadata: Metadata = {
  title: "Tachyne",
  description: "Clear large batches of e-mail with your own macros",
};
export const viewport: Viewport = { width: "device-width", initialScale: 1 };

export default function Layout({ children }: { readonly children: ReactNode }) {
  return (
    <html lang="en" suppressHydrationWarning>
      <head>
        <script dangerouslySetInnerHTML={{ __html: THEME_SCRIPT }} />
      </head>
      <body>
        <Shell>{children}</Shell>
      </body>
    </html>
  );
}
