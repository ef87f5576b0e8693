import { collection } from "@/app/api/http/answer";
import { newTemplate } from "@/core/api";
import { createTemplate, listTemplates } from "@/server/act";

export const { GET, POST } = collection(listTemplates, newTemplate, createTemplate);
