import { collection } from "@/app/api/http/answer";
import { newGroup } from "@/core/api";
import { createGroup, listGroups } from "@/server/act";

export const { GET, POST } = collection(listGroups, newGroup, createGroup);
