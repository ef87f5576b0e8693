import { item } from "@/app/api/http/answer";
import { batchPatch } from "@/core/api";
import { changeBatch, deleteBatch } from "@/server/act";

export const { PATCH, DELETE } = item(batchPatch, changeBatch, deleteBatch);
