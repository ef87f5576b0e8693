import { collection } from "@/app/api/http/answer";
import { newMarker } from "@/core/api";
import { createMarker, listMarkers } from "@/server/act";

export const { GET, POST } = collection(listMarkers, newMarker, createMarker);
