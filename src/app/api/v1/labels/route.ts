import { collection } from "@/app/api/http/answer";
import { newLabel } from "@/core/api";
import { createLabel, readDirectory } from "@/server/act";

export const { GET, POST } = collection(
  async (context) => (await readDirectory(context)).labels,
  newLabel,
  createLabel,
);
