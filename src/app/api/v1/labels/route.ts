import { collection } from "@/app/api/http/answer";
import { newLabel } from "@/core/api";
import { createLabel, listLabels } from "@/server/act";

export const { GET, POST } = collection(listLabels, newLabel, createLabel);
