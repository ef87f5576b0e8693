import { item } from "@/app/api/http/answer";
import { rulePatch } from "@/core/api";
import { changeRule, deleteRule } from "@/server/act";

export const { PATCH, DELETE } = item(rulePatch, changeRule, deleteRule);
