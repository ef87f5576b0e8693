import { collection } from "@/app/api/http/answer";
import { newIdentity } from "@/core/api";
import { createIdentity, listIdentities } from "@/server/act";

export const { GET, POST } = collection(listIdentities, newIdentity, createIdentity);
