import { collection } from "@/app/api/http/answer";
import { newBatch } from "@/core/api";
import { createBatch, listBatches } from "@/server/act";

export const { GET, POST } = collection(listBatches, newBatch, createBatch);
