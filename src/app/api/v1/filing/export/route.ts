import { download, route } from "@/app/api/http/answer";
import { exportFiling } from "@/server/act";

export const GET = route(async ({ context }) =>
  download(new TextEncoder().encode(await exportFiling(context)), "application/json", "tachyne-filing.json"),
);
