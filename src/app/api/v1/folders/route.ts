import { collection } from "@/app/api/http/answer";
import { newFolder } from "@/core/api";
import { createFolder, listFolders } from "@/server/act";

export const { GET, POST } = collection(listFolders, newFolder, createFolder);
