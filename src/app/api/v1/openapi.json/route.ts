import { openApi } from "@/app/api/http/openapi";
import { openRoute } from "@/app/api/http/answer";

export const GET = openRoute(async () => Response.json(openApi()));
