import { item } from "@/app/api/http/answer";
import { identityPatch } from "@/core/api";
import { changeIdentity, deleteIdentity } from "@/server/act";

export const { PATCH, DELETE } = item(identityPatch, changeIdentity, deleteIdentity);
