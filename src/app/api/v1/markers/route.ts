import { collection } from "@/app/api/http/answer";
import { newMarker } from "@/core/api";
import { createMarker, readDirectory } from "@/server/act";

export const { GET, POST } = collection(
  async (context) => (await readDirectory(context)).markers,
  newMarker,
  createMarker,
);
