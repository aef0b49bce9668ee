import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'

/**
 * What the interface is made of, counted from its files: native elements outside the kit, custom classes, long
 * components, quotation marks of another language.
 */
const KIT = 'web/components/ui/'
const filesIn = (folder: string, ending: RegExp): string[] =>
  readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .map((file) => join(folder, file))
    .filter((file) => ending.test(file))
    .sort()
const svelte = filesIn('web', /\.svelte$/)
const text = new Map(svelte.map((file) => [file, readFileSync(file, 'utf8')]))
const outside = svelte.filter((file) => !file.startsWith(KIT))
const kit = svelte.filter((file) => file.startsWith(KIT))

const NATIVE = ['select', 'input', 'textarea', 'button', 'table', 'dialog', 'progress'] as const
const natives = NATIVE.map((name) => {
  const tags = outside.flatMap((file) => text.get(file)!.match(new RegExp(`<${name}\\b[^>]*`, 'g')) ?? [])
  return `${name} ${tags.filter((tag) => !tag.includes('type="hidden"')).length}`
})
const confirms = outside.filter((file) => /\bconfirm\(/.test(text.get(file)!)).length
const onBits = kit.filter((file) => text.get(file)!.includes("from 'bits-ui'"))

const custom = new Set(
  [...readFileSync('web/app.css', 'utf8').matchAll(/\.([a-z][\w-]*)/g)].map(([, name]) => name),
)
const tokens = [...text.values()].flatMap((source) =>
  [...source.matchAll(/\b(?:class|titleClass)="([^"]*)"/g)].flatMap(([, words = '']) =>
    words
      .replaceAll(/\{[^{}]*\}/g, ' ')
      .split(/\s+/)
      .filter(Boolean),
  ),
)
const own = tokens.filter((token) => custom.has(token))

const long = svelte
  .map((file) => ({ file, lines: text.get(file)!.split('\n').length - 1 }))
  .filter(({ lines }) => lines > 300)
const FOLDERS = ['web', 'core', 'collector', 'db', 'protocols', 'standins', 'docs', 'bin']
const prose = FOLDERS.flatMap((folder) => filesIn(folder, /\.(ts|svelte|md|mjs|css|html|sh)$/))
const guillemets = [...prose, 'README.md', 'CONTRIBUTING.md', 'CHANGELOG.md'].reduce(
  (sum, file) => sum + (readFileSync(file, 'utf8').match(/[\u00ab\u00bb]/g)?.length ?? 0),
  0,
)

const share = ((100 * own.length) / tokens.length).toFixed(1)
console.log(
  `native elements outside the kit (limit 0): ${natives.join(', ')}; confirm() in ${confirms} files`,
)
console.log(`parts of the kit: ${kit.length}, of them on Bits UI ${onBits.length} (at least 10)`)
console.log(`custom classes: ${own.length} of ${tokens.length} class tokens, ${share} % (limit 10 %)`)
console.log(
  `components over 300 lines: ${long.length} (limit 2): ${long.map(({ file, lines }) => `${file} ${lines}`).join(', ')}`,
)
console.log(`guillemets: ${guillemets} (limit 0)`)
