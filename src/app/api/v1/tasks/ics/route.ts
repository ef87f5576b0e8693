import { route } from "@/app/api/http/answer";
import { exportTasks } from "@/server/act";

export const GET = route(
  async ({ context }) =>
    new Response(await exportTasks(context), {
      headers: {
        "content-type": "text/calendar; charset=utf-8",
        "content-disposition": 'attachment; filename="tasks.ics"',
      },
    }),
);
