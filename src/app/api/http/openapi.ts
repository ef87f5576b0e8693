import { z } from "zod";
import { problemShape } from "@/core/api";
import { OPERATIONS } from "./operations";

type Operation = (typeof OPERATIONS)[number];

const schema = (shape: z.ZodType, io: "input" | "output") =>
  z.toJSONSchema(shape, { io, unrepresentable: "any", target: "openapi-3.0" });

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

function describe(operation: Operation) {
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
    ...(body ? { requestBody: { content: body } } : {}),
    responses: {
      [operation.status ?? 200]: { description: operation.summary, ...(answer ? { content: answer } : {}) },
      default: {
        description: "What is wrong, and what to do (RFC 9457)",
        content: { "application/problem+json": { schema: schema(problemShape, "output") } },
      },
    },
  };
}

/** The API's description, OpenAPI 3.0, made from the shapes that requests are checked with. */
export function openApi() {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const operation of OPERATIONS) (paths[operation.path] ??= {})[operation.method] = describe(operation);
  return {
    openapi: "3.0.3",
    info: { title: "Tachyne", version: "1", description: "Clear large batches of e-mail with macros." },
    servers: [{ url: "/api/v1" }],
    paths,
  };
}
