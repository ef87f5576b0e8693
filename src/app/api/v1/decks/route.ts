import { collection } from "@/app/api/http/route";
import { newDeck } from "@/core/api";
import { createDeck, listDecks } from "@/server/act";

export const { GET, POST } = collection(listDecks, newDeck, createDeck);
