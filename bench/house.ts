// Counts how the code is laid out: lengths of functions, SQL outside db, protocols named outside protocols, and what
// makes an open page ask everything again. `node --import tsx bench/house.ts`
import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import ts from 'typescript'

const files = execFileSync('git', ['ls-files', '-co', '--exclude-standard', '-z'], { encoding: 'utf8' })
  .split('\0')
  .filter((file) => /\.(ts|svelte)$/.test(file))
const isTest = (file: string): boolean => /\.(test|spec)\.ts$|\/(testing|e2e)\//.test(file)
const isCode = (file: string): boolean =>
  !isTest(file) && /^(core|protocols|db|standins|collector|web)\//.test(file)

/** What is TypeScript in a file: of a component its scripts, each line where it stands. */
function scriptOf(file: string): string {
  const text = readFileSync(file, 'utf8')
  if (!file.endsWith('.svelte')) return text
  return [...text.matchAll(/<script[^>]*>([\s\S]*?)<\/script>/g)].map(([, code]) => code).join('\n')
}

interface Measured {
  readonly file: string
  readonly name: string
  readonly lines: number
}

/** Functions with a body of their own, with the lines from their first to their last. Arrows that are one expression count too. */
function functionsOf(file: string): Measured[] {
  const source = ts.createSourceFile(file, scriptOf(file), ts.ScriptTarget.Latest, true)
  const found: Measured[] = []
  const visit = (node: ts.Node): void => {
    if (ts.isFunctionLike(node) && 'body' in node && node.body !== undefined) {
      const from = source.getLineAndCharacterOfPosition(node.getStart(source)).line
      const to = source.getLineAndCharacterOfPosition(node.end).line
      const own = node.name ?? (ts.isVariableDeclaration(node.parent) ? node.parent.name : undefined)
      // What is handed on without a name is a part of the function that it stands in.
      if (own !== undefined) found.push({ file, name: own.getText(source), lines: to - from + 1 })
    }
    ts.forEachChild(node, visit)
  }
  visit(source)
  return found
}

const share = (sorted: readonly number[], ratio: number): number =>
  sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * ratio))] ?? 0

function printFunctions(): void {
  const all = files
    .filter((file) => isCode(file) && !file.includes('/migrations/'))
    .flatMap(functionsOf)
    .sort((a, b) => a.lines - b.lines)
  const lines = all.map((each) => each.lines)
  // Of very short ones a layout has as many as it likes: those of one line do not count for the middle.
  const longer = lines.filter((each) => each > 1)
  console.log(`all with a name        median ${share(lines, 0.5)}, 90th percentile ${share(lines, 0.9)}`)
  console.log(
    `functions with a name  ${all.length}; of more than one line ${longer.length}: median ${share(longer, 0.5)}, 90th percentile ${share(longer, 0.9)}, longest ${lines.at(-1)} lines`,
  )
  const long = all.filter((each) => each.lines > 80).reverse()
  console.log(`over 80 lines          ${long.length}`)
  for (const { file, name, lines: count } of long) console.log(`  ${count}  ${file} ${name}`)
}

function printMatches(what: string, pattern: RegExp, among: (file: string) => boolean): void {
  const found = files.filter(among).flatMap((file) =>
    scriptOf(file)
      .split('\n')
      .flatMap((line, index) => (pattern.test(line) ? [`${file}:${index + 1}`] : [])),
  )
  console.log(`${what}  ${found.length} in ${new Set(found.map((each) => each.split(':')[0])).size} files`)
  if (process.argv.includes('--where')) for (const each of found) console.log(`  ${each}`)
}

printFunctions()
printMatches(
  'SQL outside db       ',
  /\.(selectFrom|insertInto|updateTable|deleteFrom)\(|\bsql(<[^`]*>)?`/,
  (file) => isCode(file) && !file.startsWith('db/'),
)
const NAMES = `'(redfish|snmp|openmetrics|modbus|reach|otlp)'`
printMatches(
  'protocols compared   ',
  new RegExp(`(===|!==|case) ${NAMES}|${NAMES} (===|!==)`),
  (file) => isCode(file) && !/^(protocols|standins)\//.test(file),
)
printMatches(
  'pages that any reading makes ask ',
  /hears\(depends, .*'readings'|depends\('rack:live'\)/,
  (file) => isCode(file) && file.startsWith('web/'),
)
