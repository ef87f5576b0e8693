import { collection } from "@/app/api/http/answer";
import { newHours } from "@/core/api";
import { createHours, listHours } from "@/server/act";

export const { GET, POST } = collection(listHours, newHours, createHours);
