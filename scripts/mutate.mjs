// npm run mutate: does a test notice when a rule of core is switched off, or a comparison is over by one?
// Each is changed in turn while the tests that reach it run; what nobody notices is named. The sources
// stay as they are: the change is made while they are read (tests/mutant.cjs).
//   -- --rules | --bounds   only these
//   -- --in core/refunds    only below this path
//   -- --count 20 --seed 1  so many, chosen by the seed
import { spawn } from 'node:child_process'
import { readdirSync, readFileSync, statSync } from 'node:fs'
import { join, relative } from 'node:path'
import seedrandom from 'seedrandom'
import ts from 'typescript'
import { checkNode, failed, installPackages, root, say } from './lib/project.mjs'

/** A comparison that is over by one. */
const OVER = { '<': '<=', '<=': '<', '>': '>=', '>=': '>' }
/** Tests that reach a file and are still not done after this long are taken for having noticed. */
const LONGEST_MS = 180_000

const sourcesBelow = path =>
  statSync(path).isDirectory()
    ? readdirSync(path)
        .sort()
        .flatMap(name => sourcesBelow(join(path, name)))
    : path.endsWith('.ts')
      ? [path]
      : []

const isWithin = (node, of) => node.pos >= of.pos && node.end <= of.end

/** The condition under which a refusal is made; undefined when it stands under none of its own. */
function conditionOf(refusal) {
  for (let node = refusal; node.parent; node = node.parent) {
    const { parent } = node
    if (ts.isIfStatement(parent) && isWithin(node, parent.thenStatement)) return parent.expression
    if (ts.isConditionalExpression(parent) && isWithin(node, parent.whenTrue)) return parent.condition
    if (ts.isFunctionLike(parent) && !ts.isArrowFunction(parent)) return undefined
  }
  return undefined
}

/** All mutants of a file: what is changed, where, into what. */
function mutantsOf(file) {
  const text = readFileSync(file, 'utf8')
  const source = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true)
  const found = []
  const add = (kind, name, node, into) => {
    const { line } = source.getLineAndCharacterOfPosition(node.getStart())
    const place = `${relative(root, file)}:${line + 1}`
    found.push({ kind, name, place, file, start: node.getStart(), end: node.getEnd(), text: into })
  }
  const visit = node => {
    if (ts.isCallExpression(node) && node.expression.getText() === 'refuse') {
      const condition = conditionOf(node)
      const [id] = node.arguments
      if (condition && ts.isStringLiteral(id)) add('rules', id.text, condition, 'false')
    }
    const isLoop = ts.isForStatement(node.parent ?? node) && node.parent.condition === node
    if (ts.isBinaryExpression(node) && OVER[node.operatorToken.getText()] && !isLoop) {
      const { operatorToken } = node
      add(
        'bounds',
        node.getText().replace(/\s+/g, ' ').slice(0, 70),
        operatorToken,
        OVER[operatorToken.getText()],
      )
    }
    ts.forEachChild(node, visit)
  }
  visit(source)
  return found
}

/** Whether the tests that reach the file notice. */
function isNoticed({ file, start, end, text }) {
  const child = spawn(
    process.execPath,
    [
      join(root, 'node_modules/jest/bin/jest.js'),
      ...['--selectProjects', 'core', '--findRelatedTests', file, '--bail', '--silent', '--passWithNoTests'],
    ],
    {
      cwd: root,
      stdio: 'ignore',
      env: { ...process.env, BILANCIO_MUTANT: JSON.stringify({ file, start, end, text }) },
    },
  )
  const timer = setTimeout(() => child.kill('SIGKILL'), LONGEST_MS)
  return new Promise(resolve =>
    child.once('exit', code => {
      clearTimeout(timer)
      resolve(code !== 0)
    }),
  )
}

const args = process.argv.slice(2)
const option = (name, otherwise) => {
  const at = args.indexOf(`--${name}`)
  return at < 0 ? otherwise : args[at + 1]
}

/** So many of a list, by the seed; all of it unless said. */
function chosen(list) {
  const count = Number(option('count', list.length))
  const chance = seedrandom(option('seed', '1'))
  return list
    .map(mutant => ({ mutant, place: chance() }))
    .sort((a, b) => a.place - b.place)
    .slice(0, count)
    .map(({ mutant }) => mutant)
}

async function main() {
  checkNode()
  installPackages()
  const kinds = ['rules', 'bounds'].filter(kind => args.includes(`--${kind}`))
  const mutants = chosen(
    sourcesBelow(join(root, option('in', 'core')))
      .flatMap(mutantsOf)
      .filter(m => !kinds.length || kinds.includes(m.kind)),
  )
  const survivors = []
  for (const mutant of mutants) {
    if (await isNoticed(mutant)) continue
    survivors.push(mutant)
    say(`nobody notices: ${mutant.place} ${mutant.kind === 'rules' ? 'rule' : 'bound'} ${mutant.name}`)
  }
  const told = kind => {
    const all = mutants.filter(m => m.kind === kind).length
    return `${survivors.filter(m => m.kind === kind).length} of ${all} ${kind}`
  }
  say(`Unnoticed: ${told('rules')}, ${told('bounds')}`)
  process.exitCode = survivors.length ? 1 : 0
}

main().catch(failed)
