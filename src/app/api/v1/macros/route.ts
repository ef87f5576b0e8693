import { collection } from "@/app/api/http/route";
import { newMacro } from "@/core/api";
import { createMacro, listMacros } from "@/server/act";

export const { GET, POST } = collection(listMacros, newMacro, createMacro);
