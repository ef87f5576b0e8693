import { item } from "@/app/api/http/answer";
import { deckPatch } from "@/core/api";
import { changeDeck, deleteDeck } from "@/server/act";

export const { PATCH, DELETE } = item(deckPatch, changeDeck, deleteDeck);
