import { item } from "@/app/api/http/answer";
import { macroPatch } from "@/core/api";
import { changeMacro, deleteMacro } from "@/server/act";

export const { PATCH, DELETE } = item(macroPatch, changeMacro, deleteMacro);
