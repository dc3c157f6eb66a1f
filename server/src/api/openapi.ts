import * as z from 'zod';
import { ENDPOINTS, ProblemDocument, type Endpoint } from '../contract/index.ts';

/** The HTTP interface as OpenAPI 3.1, whose shapes are JSON Schema 2020-12. */
export function describeApi(): Record<string, unknown> {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const [name, endpoint] of Object.entries(ENDPOINTS) as [string, Endpoint][]) {
    const path = `/api${endpoint.path.replace(/:(\w+)/g, '{$1}')}`;
    paths[path] = { ...paths[path], [endpoint.method.toLowerCase()]: operation(name, endpoint) };
  }
  return {
    openapi: '3.1.0',
    info: { title: 'Treenail', version: '1' },
    paths,
    components: { schemas: { Problem: shape(ProblemDocument, 'output') } },
  };
}

function operation(operationId: string, endpoint: Endpoint): object {
  const { says, who, status, body, takes } = endpoint;
  return {
    operationId,
    summary: says,
    description: who === 'anyone' ? 'Anyone may.' : who === 'signed in' ? 'Who is signed in.' : 'Administrators only.',
    parameters: [...pathParameters(endpoint), ...queryParameters(endpoint)],
    ...(takes === 'bytes' ? { requestBody: { content: { 'application/octet-stream': {} } } } : {}),
    ...(body && takes !== 'bytes'
      ? { requestBody: { required: true, content: { 'application/json': { schema: shape(body, 'input') } } } }
      : {}),
    responses: {
      [status]: { description: says, ...contentOf(endpoint) },
      default: {
        description: 'What is wrong, and what to do (RFC 9457).',
        content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
      },
    },
  };
}

function contentOf({ answer }: Endpoint): object {
  if (answer === 'nothing') return {};
  if (answer === 'bytes') return { content: { 'application/octet-stream': {} } };
  if (answer === 'events') return { content: { 'text/event-stream': {} } };
  return { content: { 'application/json': { schema: shape(answer, 'output') } } };
}

function pathParameters({ path, params }: Endpoint): object[] {
  const names = [...path.matchAll(/:(\w+)/g)].map((m) => m[1]);
  return names.map((name, i) => {
    const schema = params[i];
    return { name, in: 'path', required: true, schema: schema ? shape(schema, 'output') : {} };
  });
}

/** A query is an object, or one of several, of which all names are told. */
function queryParameters({ query }: Endpoint): object[] {
  if (!query) return [];
  const { properties, required = [], anyOf = [] } = Shape.parse(shape(query, 'input'));
  const all = properties ?? Object.fromEntries(anyOf.flatMap((one) => Object.entries(one.properties ?? {})));
  return Object.entries(all).map(([name, schema]) => {
    return { name, in: 'query', required: required.includes(name), schema };
  });
}

const Properties = z.record(z.string(), z.unknown());
const Shape = z.looseObject({
  properties: Properties.optional(),
  required: z.array(z.string()).optional(),
  anyOf: z.array(z.looseObject({ properties: Properties.optional() })).optional(),
});

/** What a transformation makes has no shape of its own in JSON Schema: it is left open. */
function shape(schema: z.ZodType, io: 'input' | 'output'): Record<string, unknown> {
  return z.toJSONSchema(schema, { io, unrepresentable: 'any', reused: 'inline' });
}
