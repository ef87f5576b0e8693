import { collection } from "@/app/api/http/answer";
import { newMacro } from "@/core/api";
import { createMacro, listMacros } from "@/server/act";

export const { GET, POST } = collection(listMacros, newMacro, createMacro);
