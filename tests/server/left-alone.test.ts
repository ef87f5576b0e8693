import { afterAll, afterEach, beforeAll, beforeEach, expect, test } from "vitest";
import { changeAccount, listRemoteFolders } from "@/server/act";
import { letter, startMailService, type MailService } from "../fixtures/mail-service";
import { Sides } from "./sides";

/** Folders of the server that the person leaves alone there. */

let service: MailService;
let sides: Sides;
let next = 0;
beforeAll(async () => {
  service = await startMailService(["l0", "l1", "l2"]);
});
afterAll(() => service.end());
beforeEach(async () => {
  sides = await Sides.open(service, `l${next++}`);
  await sides.bare.run("CREATE Rota");
  await sides.fill(2);
  await sides.fill(2, "Rota", 3);
});
afterEach(() => sides.end());

const paths = async () => (await sides.here()).map(({ messageId, path }) => `${messageId} ${path}`);

test("their mail does not come in, until it is wanted; the inbox always does", async () => {
  const { id } = await sides.connect({ without: ["Rota"] });
  await sides.settle();
  expect(await paths()).toEqual(["<m1@post.example> Inbox", "<m2@post.example> Inbox"]);
  const folders = await listRemoteFolders(sides.fresh.context, id);
  expect(folders.filter(({ messages }) => messages > 0)).toEqual([
    { path: "INBOX", place: "Inbox", messages: 2 },
    { path: "Rota", place: "Rota", messages: 2 },
  ]);
  const places = await sides.fresh.db.sql`select from folder where path = 'Rota'`;
  expect(places).toHaveLength(0);
  await changeAccount(sides.fresh.context, id, { without: [] });
  await sides.settle();
  expect(await paths()).toHaveLength(4);
});

test("what is here of one stays when it is left alone, nothing of it is done there, and it is not doubled later", async () => {
  const { id } = await sides.connect();
  await sides.settle();
  await changeAccount(sides.fresh.context, id, { without: ["Rota"] });
  await sides.run([(await sides.byId(3)).id], { do: "read" });
  await sides.run([(await sides.byId(4)).id], { do: "trash" });
  sides.changing();
  await sides.settle();
  expect(sides.changing()).toEqual([]);
  expect(await sides.there("Rota")).toEqual(["<m3@post.example>", "<m4@post.example>"]);
  expect(await paths()).toEqual([
    "<m1@post.example> Inbox",
    "<m2@post.example> Inbox",
    "<m3@post.example> Rota",
    "<m4@post.example> Trash",
  ]);
  // Mail of other folders that is moved into the place stays where it is on the server.
  await sides.run([(await sides.byId(1)).id], { do: "move", to: "Rota" });
  await sides.settle();
  expect(await sides.there("INBOX")).toEqual(["<m1@post.example>", "<m2@post.example>"]);
  await changeAccount(sides.fresh.context, id, { without: [] });
  await sides.settle();
  expect(await sides.here()).toHaveLength(4);
  // What was decided meanwhile is there now.
  expect(await sides.there("INBOX")).toEqual(["<m2@post.example>"]);
  expect(await sides.there("Rota")).toContain("<m1@post.example>");
  expect(await sides.there("Rota")).toContain("<m3@post.example> \\Seen");
  expect(await sides.there("Trash")).toEqual(["<m4@post.example>"]);
});

test("mail that another program puts into one is not taken for deleted", async () => {
  await sides.connect({ without: ["Rota"] });
  await sides.settle();
  await sides.bare.select("INBOX");
  await sides.bare.run("UID MOVE 1 Rota");
  await sides.bare.run("UID STORE 2 +FLAGS (\\Deleted)");
  await sides.bare.run("UID EXPUNGE 2");
  await sides.settle();
  expect(await paths()).toEqual(["<m1@post.example> Inbox", "<m2@post.example> Trash"]);
  await sides.bare.append("INBOX", letter(9));
  await sides.settle();
  expect(await sides.here()).toHaveLength(3);
});
