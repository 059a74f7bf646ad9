import * as z from 'zod';
import { problemSchema, type Operation } from './operation';
import { operations } from './operations';

/** Where the API begins. */
export const API_ROOT = '/api/v1';

type JsonSchema = Record<string, unknown>;

/** A schema as OpenAPI 3.1 has it, which is JSON Schema 2020-12: as it is sent, before anything is worked out of it. */
function toJsonSchema(schema: z.ZodType): JsonSchema {
  const { $schema: _, ...rest } = z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any', target: 'draft-2020-12' }) as JsonSchema;
  return rest;
}

const json = (schema: JsonSchema) => ({ 'application/json': { schema } });

function parametersOf({ path, query }: Operation) {
  const inPath = [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    ...{ name, in: 'path', required: true, schema: { type: 'integer', minimum: 1 } },
    description: `Number of the ${name}`,
  }));
  const schema = query ? toJsonSchema(query) : {};
  const required = new Set((schema.required as string[] | undefined) ?? []);
  const inQuery = Object.entries((schema.properties as Record<string, JsonSchema> | undefined) ?? {}).map(([name, own]) => ({
    ...{ name, in: 'query', required: required.has(name), schema: own },
  }));
  return [...inPath, ...inQuery];
}

/** The document that describes the API (OpenAPI 3.1.0), made of the schemas that its routes parse by. */
export function openApiDocument(): JsonSchema {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const [operationId, operation] of Object.entries(operations) as [string, Operation][]) {
    const { method, path, step, summary, says, body, answer, mediaType, status = 200 } = operation;
    const content = mediaType ? { [mediaType]: {} } : json(toJsonSchema(answer!));
    const problem = (description: string) => ({ description, content: json({ $ref: '#/components/schemas/Problem' }) });
    (paths[path] ??= {})[method] = {
      ...{ operationId, tags: [step], summary, ...(says === undefined ? {} : { description: says }) },
      parameters: parametersOf(operation),
      ...(body ? { requestBody: { required: true, content: json(toJsonSchema(body)) } } : {}),
      responses: {
        [status]: { description: 'It went well', content },
        400: problem('The request is not one that can be followed'),
        ...(path.includes('{') ? { 404: problem('There is no such thing') } : {}),
        ...(method === 'get' ? {} : { 409: problem('Something stands against it') }),
      },
    };
  }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Mint Tally',
      version: '1',
      description:
        'Every step of the application for scripts. Frames are written in range notation (1001-1048, 1-100x2,120), moments as ISO 8601. The server listens on loopback only; whoever can reach it may do what its pages do.',
    },
    servers: [{ url: API_ROOT }],
    tags: [...new Set(Object.values(operations).map(({ step }) => step))].map((name) => ({ name })),
    paths,
    components: { schemas: { Problem: toJsonSchema(problemSchema) } },
  };
}
