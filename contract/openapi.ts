import { z } from 'zod'
import { createDocument, type ZodOpenApiPathsObject } from 'zod-openapi'
import { operations } from './index'
import { problem } from './common'

const queued = z.object({ job: z.int() }).meta({ id: 'Queued' })

/** The OpenAPI 3.1 document, made from the contract alone. */
export function openapiDocument(): Record<string, unknown> {
  const paths: ZodOpenApiPathsObject = {}
  for (const o of operations) {
    const status = String(o.status ?? 200)
    const content = o.response
      ? { 'application/json': { schema: o.response } }
      : o.responseType
        ? Object.fromEntries(
            [o.responseType].flat().map(type => [type, { schema: { type: 'string' as const } }]),
          )
        : undefined
    const done = { description: 'Done', ...(content ? { content } : {}) }
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
          ...Object.fromEntries([status, ...(o.also ?? [])].map(s => [s, done])),
          ...(o.job
            ? {
                '202': {
                  description: 'Asked with `Prefer: respond-async`: a job does it, told of at `location`',
                  content: { 'application/json': { schema: queued } },
                },
              }
            : {}),
          '4XX': {
            description: 'Refused: what is wrong and what would be right',
            content: { 'application/problem+json': { schema: problem } },
          },
          '5XX': {
            description: 'Not now, or a fault of ours: nothing was done',
            content: { 'application/problem+json': { schema: problem } },
          },
        },
      },
    }
  }
  const document = createDocument({
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
  return { ...document }
}
