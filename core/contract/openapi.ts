import { toJsonSchema } from '@valibot/to-json-schema'
import type * as v from 'valibot'
import { operations, queryEntries, type Bytes, type Operation } from './http'

type Json = Record<string, unknown>

/** A schema as OpenAPI writes it. What only a function can check is left to the sentences. */
function schemaOf(schema: v.GenericSchema): Json {
  const { $schema: _, ...rest } = toJsonSchema(schema, { errorMode: 'ignore', typeMode: 'input' }) as Json
  return rest
}
const isBytes = (x: v.GenericSchema | Bytes): x is Bytes => 'media' in x

function content(what: v.GenericSchema | Bytes): Json {
  if (isBytes(what)) return { [what.media]: { schema: { type: 'string', format: 'binary' } } }
  return { 'application/json': { schema: schemaOf(what) } }
}

function parametersOf(operation: Operation): Json[] {
  const inPath = [...operation.path.matchAll(/\{(\w+)\}/g)].map(m => ({
    in: 'path',
    name: m[1],
    required: true,
    schema: { type: 'string' },
  }))
  const inQuery = Object.entries(queryEntries(operation)).map(([name, schema]) =>
    ({ in: 'query', name, schema: schemaOf(schema) }))
  return [...inPath, ...inQuery]
}

function describe(id: string, operation: Operation): Json {
  const { tag, summary, body, answer, status = 200, errors = {} } = operation
  const about = isBytes(answer) ? answer.about : summary
  return {
    operationId: id,
    tags: [tag],
    summary,
    parameters: parametersOf(operation),
    ...(body
      ? {
          requestBody: {
            required: true,
            ...(isBytes(body) ? { description: body.about } : {}),
            content: content(body),
          },
        }
      : {}),
    responses: {
      [status]: { description: about, content: content(answer) },
      ...Object.fromEntries(Object.entries(errors).map(([code, words]) => [code, { description: words }])),
    },
  }
}

/** The whole of the HTTP interface as an OpenAPI 3.1 document, made from the table that the server itself works by. */
export function openApi(version: string): Json {
  const paths: Record<string, Json> = {}
  for (const [id, operation] of Object.entries(operations) as [string, Operation][]) {
    paths[operation.path] = { ...paths[operation.path], [operation.method]: describe(id, operation) }
  }
  const description
    = 'Sites, settings, takes and analysis. Errors are JSON with a `code` to act by, its `values`, and a `message` '
      + 'that says in English what was wrong and what is allowed.'
  return { openapi: '3.1.0', info: { title: 'Kovrin', description, version }, paths }
}
