import { item } from "@/app/api/http/answer";
import { hoursPatch } from "@/core/api";
import { changeHours, deleteHours } from "@/server/act";

export const { PATCH, DELETE } = item(hoursPatch, changeHours, deleteHours);
