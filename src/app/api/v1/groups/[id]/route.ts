import { item } from "@/app/api/http/answer";
import { groupPatch } from "@/core/api";
import { changeGroup, deleteGroup } from "@/server/act";

export const { PATCH, DELETE } = item(groupPatch, changeGroup, deleteGroup);
