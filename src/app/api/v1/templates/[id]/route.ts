import { item } from "@/app/api/http/answer";
import { templatePatch } from "@/core/api";
import { changeTemplate, deleteTemplate } from "@/server/act";

export const { PATCH, DELETE } = item(templatePatch, changeTemplate, deleteTemplate);
