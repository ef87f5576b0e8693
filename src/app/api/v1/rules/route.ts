import { collection } from "@/app/api/http/answer";
import { newRule } from "@/core/api";
import { createRule, listRules } from "@/server/act";

export const { GET, POST } = collection(listRules, newRule, createRule);
