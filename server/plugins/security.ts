import { createHash } from 'node:crypto'

/** Headers of every page; inline scripts that the framework writes are allowed by their hash. */
export default defineNitroPlugin(nitro => {
  nitro.hooks.hook('render:response', response => {
    const body = typeof response.body === 'string' ? response.body : ''
    const hashes = [...body.matchAll(/<script(?![^>]*\bsrc=)[^>]*>([\s\S]*?)<\/script>/g)]
      .filter(m => m[1])
      .map(m => `'sha256-${createHash('sha256').update(m[1]!).digest('base64')}'`)
    response.headers = {
      ...response.headers,
      'content-security-policy':
        `default-src 'self'; script-src 'self' ${hashes.join(' ')}; style-src 'self' 'unsafe-inline'; ` +
        `img-src 'self' data:; font-src 'self'; connect-src 'self'; frame-src 'self'; object-src 'none'; ` +
        `base-uri 'none'; form-action 'self'; frame-ancestors 'none'`,
    }
  })
  nitro.hooks.hook('request', event => {
    event.node.res.setHeader('x-content-type-options', 'nosniff')
    event.node.res.setHeader('referrer-policy', 'same-origin')
    event.node.res.setHeader(
      'x-frame-options',
      event.path.startsWith('/api/reminders/') ? 'SAMEORIGIN' : 'DENY',
    )
  })
})
