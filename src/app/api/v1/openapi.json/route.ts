import { openApi } from "@/app/api/http/openapi";
import { route } from "@/app/api/http/answer";

export const GET = route(async () => Response.json(openApi()));
