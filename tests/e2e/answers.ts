import { appendFileSync, existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { openapiDocument } from '../../contract/openapi'

/** Notes the answers of this run; every application started from now on holds its own against it. */
export function noteAnswers(): void {
  const folder = mkdtempSync(join(tmpdir(), 'bilancio-answers-'))
  writeFileSync(join(folder, 'openapi.json'), JSON.stringify(openapiDocument()))
  process.env.E2E_ANSWERS = folder
}

/** What an application is started with, so that its answers are looked at. */
export const answersNoted = (): Record<string, string> =>
  process.env.E2E_ANSWERS ? { NODE_OPTIONS: `--import=${resolve(import.meta.dirname, 'answers.mjs')}` } : {}

/** What an application prints: the log of its faults is shown beside the answers that were none. */
export function noteOutput(chunk: Buffer): void {
  if (process.env.E2E_ANSWERS) appendFileSync(join(process.env.E2E_ANSWERS, 'output.txt'), chunk)
}

const linesOf = (name: string): string[] => {
  const file = join(process.env.E2E_ANSWERS!, name)
  return existsSync(file) ? readFileSync(file, 'utf8').trim().split('\n') : []
}

/** Ends with an error when an answer of the run was not what the OpenAPI document says. */
export function readAnswers(): void {
  const [answered, faults] = [linesOf('answered.txt'), linesOf('faults.txt')]
  const logged = linesOf('output.txt').filter(line => line.includes('"msg":"fault"'))
  rmSync(process.env.E2E_ANSWERS!, { recursive: true, force: true })
  console.log(
    `${answered.length} answers of ${new Set(answered.map(a => a.replace(/ \d+$/, ''))).size} operations ` +
      `were held against the OpenAPI document, ${faults.length} differ`,
  )
  if (faults.length || !answered.length)
    throw new Error(
      `answers that the OpenAPI document does not say:\n${[...new Set(faults)].slice(0, 60).join('\n')}\n` +
        logged.slice(0, 60).join('\n'),
    )
}
