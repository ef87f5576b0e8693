import { item } from "@/app/api/http/answer";
import { labelPatch } from "@/core/api";
import { changeLabel, deleteLabel } from "@/server/act";

export const { PATCH, DELETE } = item(labelPatch, changeLabel, deleteLabel);
