// Loaded into every application of the browser tests (`node --import`): holds each answer of /api against the
// OpenAPI document, with ajv, a validator that knows nothing of our schemas. What differs is written to a
// file that the end of the run reads: see answers.ts.
import { appendFileSync, readFileSync } from 'node:fs'
import { ServerResponse } from 'node:http'
import { join } from 'node:path'
import addFormats from 'ajv-formats'
import Ajv from 'ajv/dist/2020.js'

const folder = process.env.E2E_ANSWERS
const document = JSON.parse(readFileSync(join(folder, 'openapi.json'), 'utf8'))
const ajv = new Ajv({ strict: false })
addFormats(ajv)
ajv.addSchema(document, 'openapi')

/** The paths of the document; one without parameters goes before those that would match it too. */
const paths = Object.keys(document.paths)
  .sort((a, b) => a.split('{').length - b.split('{').length)
  .map(path => ({
    path,
    matches: new RegExp(`^${path.replace(/\./g, '\\.').replace(/\{\w+\}/g, '[^/]+')}$`),
  }))

const validators = new Map()
function validator(...names) {
  const pointer = names.map(n => encodeURIComponent(n.replace(/~/g, '~0').replace(/\//g, '~1'))).join('/')
  if (!validators.has(pointer)) validators.set(pointer, ajv.compile({ $ref: `openapi#/${pointer}` }))
  return validators.get(pointer)
}

/** What is wrong with an answer, in words; undefined when the document says it. */
function fault(method, path, response, body) {
  const { statusCode: status } = response
  const type = String(response.getHeader('content-type') ?? '').split(';')[0]
  if (status === 500) return 'is a fault of ours'
  const operation = document.paths[path]?.[method]
  if (!operation) return status === 404 || status === 405 ? undefined : 'is not in the document'
  const declared = [String(status), `${String(status)[0]}XX`].find(s => operation.responses[s])
  if (!declared) return 'its status is not in the document'
  const { content } = operation.responses[declared]
  if (!content) return body.length ? `has a body (${type}) where the document says none` : undefined
  if (!content[type]) return `its type ${type} is not in the document`
  if (!/json$/.test(type)) return undefined
  const validate = validator('paths', path, method, 'responses', declared, 'content', type, 'schema')
  return validate(JSON.parse(body.toString('utf8')))
    ? undefined
    : ajv.errorsText(validate.errors, { dataVar: 'the answer' })
}

function look(response, body) {
  const { method, url } = response.req
  const asked = new URL(url, 'http://here').pathname
  const path = paths.find(p => p.matches.test(asked))?.path ?? asked
  const name = `${method} ${path} ${response.statusCode}`
  appendFileSync(join(folder, 'answered.txt'), `${name}\n`)
  const wrong = fault(method.toLowerCase(), path, response, body)
  if (wrong) appendFileSync(join(folder, 'faults.txt'), `${name} (${asked}): ${wrong}\n`)
}

const { write, end } = ServerResponse.prototype
const sent = new WeakMap()
const keep = (response, chunk, encoding) => {
  if (!response.req?.url?.startsWith('/api/') || response.req.method === 'HEAD') return
  if (!sent.has(response)) sent.set(response, [])
  if (chunk && typeof chunk !== 'function')
    sent.get(response).push(Buffer.from(chunk, typeof encoding === 'string' ? encoding : 'utf8'))
}
ServerResponse.prototype.write = function (chunk, encoding, ...rest) {
  keep(this, chunk, encoding)
  return write.call(this, chunk, encoding, ...rest)
}
ServerResponse.prototype.end = function (chunk, encoding, ...rest) {
  keep(this, chunk, encoding)
  if (sent.has(this)) {
    const body = Buffer.concat(sent.get(this))
    sent.delete(this)
    try {
      look(this, body)
    } catch (error) {
      appendFileSync(join(folder, 'faults.txt'), `${this.req.method} ${this.req.url}: ${error}\n`)
    }
  }
  return end.call(this, chunk, encoding, ...rest)
}
