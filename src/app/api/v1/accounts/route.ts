import { collection } from "@/app/api/http/answer";
import { newAccount } from "@/core/api";
import { createAccount, listAccounts } from "@/server/act";

export const { GET, POST } = collection(listAccounts, newAccount, createAccount);
