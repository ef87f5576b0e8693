import { item } from "@/app/api/http/answer";
import { markerPatch } from "@/core/api";
import { changeMarker, deleteMarker } from "@/server/act";

export const { PATCH, DELETE } = item(markerPatch, changeMarker, deleteMarker);
