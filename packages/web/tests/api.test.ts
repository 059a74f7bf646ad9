import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { Validator } from '@seriousme/openapi-schema-validator';
import { describe, expect, it } from 'vitest';
import { API_ROOT, openApiDocument } from '$lib/api/openapi';
import { operations, type OperationName } from '$lib/api/operations';
import { linesOf } from '$lib/api/schema-lines';

const ROUTES = path.resolve(import.meta.dirname, '../src/routes', `.${API_ROOT}`);
/** The routes as their files have them: method and address. */
const written = readdirSync(ROUTES, { recursive: true, encoding: 'utf8' })
  .filter((file) => path.basename(file) === '+server.ts' && path.dirname(file) !== 'openapi.json')
  .flatMap((file) => {
    const text = readFileSync(path.join(ROUTES, file), 'utf8');
    const address = `/${path.dirname(file)}`.replaceAll('[', '{').replaceAll(']', '}');
    return [...text.matchAll(/^export const (GET|POST|PUT|DELETE) = serve\(\s*operations\.(\w+)/gm)].map(([, method, name]) => ({
      ...{ does: `${method!.toLowerCase()} ${address}`, name: name as OperationName },
    }));
  });

describe('the document of the API', () => {
  it('is one of OpenAPI 3.1 by the standard’s own schema', async () => {
    const validator = new Validator();
    const { valid, errors } = await validator.validate(JSON.parse(JSON.stringify(openApiDocument())) as Parameters<Validator['validate']>[0]);
    expect(errors).toBeUndefined();
    expect(valid).toBe(true);
    expect(validator.version).toBe('3.1');
  });

  it('has a route for each operation, which serves just that, and no route besides', () => {
    expect(written.map(({ does, name }) => `${does} ${name}`).sort()).toEqual(
      Object.entries(operations)
        .map(([name, { method, path: address }]) => `${method} ${address} ${name}`)
        .sort(),
    );
  });

  it('describes what is taken and given, and refers to nothing that is not there', () => {
    const text = JSON.stringify(openApiDocument());
    expect([...text.matchAll(/"\$ref":"([^"]+)"/g)].every(([, target]) => target === '#/components/schemas/Problem')).toBe(true);
    const { paths } = openApiDocument() as { paths: Record<string, Record<string, { requestBody?: { content: Record<string, { schema: object }> } }>> };
    const lines = linesOf(paths['/shots/{shot}/jobs']!.post!.requestBody!.content['application/json']!.schema);
    expect(lines.filter(({ name, depth }) => name === 'kind' && depth === 0).map(({ type }) => type)).toEqual(
      ['count', 'assay', 'measure', 'mend', 'package', 'movie', 'verify', 'sheet'].map((kind) => JSON.stringify(kind)),
    );
    expect(linesOf(paths['/shots']!.post!.requestBody!.content['application/json']!.schema)).toContainEqual(
      expect.objectContaining({ depth: 1, name: 'range', type: 'string', isRequired: true }),
    );
  });
});
