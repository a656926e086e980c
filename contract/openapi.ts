import { createDocument, type ZodOpenApiPathsObject } from 'zod-openapi'
import { operations } from './index'
import { problem } from './common'

/** The OpenAPI 3.1 document, made from the contract alone. */
export function openapiDocument(): object {
  const paths: ZodOpenApiPathsObject = {}
  for (const o of operations) {
    const status = String(o.status ?? 200)
    const content = o.response
      ? { 'application/json': { schema: o.response } }
      : o.responseType
        ? { [o.responseType]: { schema: { type: 'string' as const } } }
        : undefined
    paths[o.path] = {
      ...paths[o.path],
      [o.method]: {
        summary: o.summary,
        description: o.ability ? `Needs the ability \`${o.ability}\`.` : 'Open without sign-in.',
        tags: [o.path.split('/')[2]!.replace('.json', '')],
        requestParams: {
          ...(o.query ? { query: o.query } : {}),
          ...(o.params ? { path: o.params } : {}),
        },
        ...(o.body
          ? { requestBody: { content: { [o.bodyType ?? 'application/json']: { schema: o.body } } } }
          : {}),
        responses: {
          [status]: { description: 'Done', ...(content ? { content } : {}) },
          '4XX': {
            description: 'Refused: what is wrong and what would be right',
            content: { 'application/problem+json': { schema: problem } },
          },
        },
      },
    }
  }
  return createDocument({
    openapi: '3.1.0',
    info: {
      title: 'Bilancio',
      version: '0.1.0',
      description:
        'Amounts are integers in minor units of their currency (ISO 4217). Posting requests accept an ' +
        '`Idempotency-Key` header.',
    },
    components: { securitySchemes: { session: { type: 'apiKey', in: 'cookie', name: 'bilancio' } } },
    security: [{ session: [] }],
    paths,
  })
}
