import { collection } from "@/app/api/http/answer";
import { newDeck } from "@/core/api";
import { createDeck, listDecks } from "@/server/act";

export const { GET, POST } = collection(listDecks, newDeck, createDeck);
