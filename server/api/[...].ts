import { operations } from '~~/contract'
import { ProblemError } from '~~/server/services/common/problems'

/** Anything under /api that no route answers. */
export default defineEventHandler(event => {
  const path = event.path.split('?')[0]!
  const others = operations
    .filter(o => new RegExp(`^${o.path.replace(/\{\w+\}/g, '[^/]+')}$`).test(path))
    .map(o => o.method.toUpperCase())
  const problem = answerProblem(
    event,
    others.length
      ? new ProblemError(405, 'Wrong method', `${path} answers ${others.join(', ')}`)
      : new ProblemError(404, 'Not found', `there is no ${path}: see /api/openapi.json`),
  )
  if (others.length) setHeader(event, 'allow', others.join(', '))
  return problem
})
