import { item } from "@/app/api/http/answer";
import { folderPatch } from "@/core/api";
import { deleteFolder, renameFolder } from "@/server/act";

export const { PATCH, DELETE } = item(folderPatch, renameFolder, deleteFolder);
