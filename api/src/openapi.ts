import type { TObject, TSchema } from "@sinclair/typebox";
import { Problem } from "./contracts";
import { type Bytes, ROUTES, type Route } from "./routes";

const isSchema = (content: TSchema | Bytes): content is TSchema => !("media" in content);

function contentOf(content: TSchema | Bytes) {
  return isSchema(content)
    ? { "application/json": { schema: content } }
    : {
        [content.media]: content.media.startsWith("application/json")
          ? {}
          : { schema: { type: "string", format: "binary" } },
      };
}

const TITLES: Record<number, string> = {
  200: "Done",
  201: "Made",
  204: "Done, with nothing to say",
  206: "A part of it",
  400: "The request cannot be understood",
  404: "Not there",
  409: "It was changed elsewhere",
  413: "Too large",
  416: "The range lies outside",
  422: "It cannot be used",
  500: "The server could not finish",
};

function operationOf({ method, path, summary, query, request, answers, problems = [] }: Route) {
  const inPath = [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    name,
    in: "path",
    required: true,
    schema: { type: "string" },
  }));
  const inQuery = Object.entries((query as TObject | undefined)?.properties ?? {}).map(([name, schema]) => ({
    name,
    in: "query",
    required: true,
    schema,
  }));
  const parameters = [...inPath, ...inQuery];
  const problem = (status: number) => [
    String(status),
    { description: TITLES[status], content: { "application/problem+json": { schema: Problem } } },
  ];
  return {
    operationId: `${method} ${path}`.replace(/[^a-z]+/gi, "-").replace(/-$/, ""),
    summary,
    ...(parameters.length > 0 && { parameters }),
    ...(request && { requestBody: { required: true, content: contentOf(request) } }),
    responses: Object.fromEntries([
      ...Object.entries(answers).map(([status, content]) => [
        status,
        { description: TITLES[Number(status)], ...(content && { content: contentOf(content) }) },
      ]),
      ...[400, ...problems, 500].map(problem),
    ]),
  };
}

/** The OpenAPI 3.1 description of everything under `/api`, made from the contracts. */
export function openApi(version: string) {
  const paths: Record<string, Record<string, ReturnType<typeof operationOf>>> = {};
  for (const route of ROUTES) {
    paths[route.path] ??= {};
    paths[route.path][route.method] = operationOf(route);
  }
  return {
    openapi: "3.1.0",
    info: {
      title: "Bumbrel",
      version,
      description: "Projects, sounds, assets and kept analyses of a Bumbrel server.",
    },
    servers: [{ url: "/api" }],
    paths,
  };
}
