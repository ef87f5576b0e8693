import { collection } from "@/app/api/http/answer";
import { newContact } from "@/core/api";
import { createContact, listContacts } from "@/server/act";

export const { GET, POST } = collection(listContacts, newContact, createContact);
