import * as z from "zod";
import { problemShape } from "@/core/api";
import { OPERATIONS } from "./operations";

type Operation = (typeof OPERATIONS)[number];

type Json = Record<string, unknown>;

/** Shapes that hold themselves, such as steps, stand once for the whole document and are referred to. */
function schemasOf(components: Json) {
  return (shape: z.ZodType, io: "input" | "output"): Json => {
    const made = z.toJSONSchema(shape, { io, unrepresentable: "any", target: "openapi-3.0" }) as Json;
    const { $defs = {}, definitions = {}, ...rest } = made as { $defs?: Json; definitions?: Json };
    // What goes in may leave out what has a default, and so is another shape than what comes out.
    const named = (name: string) => (io === "input" ? name : `${name}Answer`);
    const text = JSON.stringify({ rest, defs: { ...$defs, ...definitions } }).replace(
      /"#\/(?:\$defs|definitions|components\/schemas)\/(\w+)"/g,
      (_, name: string) => `"#/components/schemas/${named(name)}"`,
    );
    const { rest: moved, defs } = JSON.parse(text) as { rest: Json; defs: Json };
    for (const [name, definition] of Object.entries(defs)) components[named(name)] = definition;
    return moved;
  };
}

const parameters = (operation: Operation) => [
  ...[...operation.path.matchAll(/\{(\w+)\}/g)].map((found) => ({
    name: found[1],
    in: "path",
    required: true,
    schema: { type: "string" },
  })),
  ...Object.entries(operation.query ?? {}).map(([name, description]) => ({
    name,
    in: "query",
    description,
    schema: { type: "string" },
  })),
];

function describe(operation: Operation, schema: ReturnType<typeof schemasOf>) {
  const media = operation.media ?? "application/json";
  const binary = { [media]: { schema: { type: "string", format: "binary" } } };
  const answer = operation.answer
    ? { "application/json": { schema: schema(operation.answer, "output") } }
    : operation.media && operation.method === "get"
      ? binary
      : undefined;
  const body = operation.body
    ? { "application/json": { schema: schema(operation.body, "input") } }
    : operation.method === "post" && operation.media
      ? binary
      : undefined;
  return {
    summary: operation.summary,
    parameters: parameters(operation),
    ...(operation.open ? { security: [] } : {}),
    ...(body ? { requestBody: { content: body } } : {}),
    responses: {
      [operation.status ?? 200]: { description: operation.summary, ...(answer ? { content: answer } : {}) },
      default: { $ref: "#/components/responses/Trouble" },
    },
  };
}

/** The API's description, OpenAPI 3.0, made from the shapes that requests are checked with. */
export function openApi() {
  const paths: Record<string, Record<string, unknown>> = {};
  const components: Json = {};
  const schema = schemasOf(components);
  for (const operation of OPERATIONS) (paths[operation.path] ??= {})[operation.method] = describe(operation, schema);
  return {
    openapi: "3.0.3",
    info: { title: "Tachyne", version: "1", description: "Clear large batches of e-mail with macros." },
    servers: [{ url: "/api/v1" }],
    security: [{ session: [] }, { token: [] }],
    paths,
    components: {
      // Said once: it is the same everywhere.
      responses: {
        Trouble: {
          description: "What is wrong, and what to do (RFC 9457)",
          content: { "application/problem+json": { schema: schema(problemShape, "output") } },
        },
      },
      securitySchemes: {
        token: { type: "http", scheme: "bearer", description: "Made under You, for programs (RFC 6750)." },
        session: {
          type: "apiKey",
          in: "cookie",
          name: "tachyne",
          description: "With the port behind it where the address has one: tachyne-4300. Signing in sets it.",
        },
      },
      schemas: components,
    },
  };
}
