import { collection } from "@/app/api/http/answer";
import { newBlocked } from "@/core/api";
import { blockSender, listBlocked } from "@/server/act";

export const { GET, POST } = collection(listBlocked, newBlocked, blockSender);
