import { finishFamily, suffixesOf } from './family.ts'
import { LineError, LineReader } from './lineReader.ts'
import {
  type DocumentForm,
  type DocumentSample,
  type Family,
  type FamilyType,
  LABEL_OF_TYPE,
  type Labels,
} from './shape.ts'

/** What is wrong with a document, and on which line (counted from 1). */
export class DocumentError extends Error {
  constructor(
    readonly line: number,
    readonly reason: string,
  ) {
    super(`line ${line}: ${reason}`)
  }
}

const MOST_SAMPLES = 250_000

/**
 * Reads a whole document of metrics.
 * @throws DocumentError at the first line that is not as the form has it
 */
export function parseDocument(bytes: Uint8Array, form: DocumentForm): Family[] {
  const lines = linesOf(bytes)
  const reader = new DocumentReader(form)
  lines.forEach((text, index) => {
    try {
      reader.take(text, index + 1)
    } catch (error) {
      if (error instanceof LineError) throw new DocumentError(index + 1, error.message)
      throw error
    }
  })
  return reader.finish(lines.length)
}

/** UTF-8 (RFC 3629) in lines that end with LF; the last may go without. */
function linesOf(bytes: Uint8Array): string[] {
  const decoder = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true })
  try {
    const lines = decoder.decode(bytes).split('\n')
    if (lines.at(-1) === '') lines.pop()
    return lines
  } catch {
    let [line, start] = [1, 0]
    for (;;) {
      const end = bytes.indexOf(0x0a, start)
      try {
        decoder.decode(bytes.subarray(start, end === -1 ? undefined : end))
      } catch {
        throw new DocumentError(line, 'it is not UTF-8')
      }
      if (end === -1) throw new DocumentError(line, 'it is not UTF-8')
      line += 1
      start = end + 1
    }
  }
}

/** A family while its lines come in. */
interface OpenFamily {
  readonly name: string
  type: FamilyType | null
  unit: string | null
  help: string | null
  readonly samples: DocumentSample[]
  /** Name and labels of each sample, for the plain form. */
  readonly seen: Set<string>
}

class DocumentReader {
  readonly #form: DocumentForm
  readonly #families = new Map<string, OpenFamily>()
  #current: OpenFamily | null = null
  #hasEnded = false
  #count = 0

  constructor(form: DocumentForm) {
    this.#form = form
  }

  take(text: string, line: number): void {
    if (this.#hasEnded) throw new LineError('something follows the end mark “# EOF”')
    if (this.#form === 'openmetrics') {
      if (text === '# EOF') this.#hasEnded = true
      else if (text.startsWith('#')) this.#describe(text)
      else this.#sample(text, line)
      return
    }
    const trimmed = text.trim()
    if (trimmed === '') return
    if (!trimmed.startsWith('#')) this.#sample(trimmed, line)
    else if (/^#[ \t]+(TYPE|HELP)[ \t]/.test(trimmed))
      this.#describe(trimmed.replace(/^#[ \t]+(\w+)[ \t]+(\S+)[ \t]*/, '# $1 $2 '))
  }

  finish(lines: number): Family[] {
    if (this.#form === 'openmetrics') {
      if (!this.#hasEnded)
        throw new DocumentError(
          Math.max(1, lines),
          'the end mark “# EOF” is missing: the document is cut off',
        )
    }
    return [...this.#families.values()].map((family) => this.#closed(family))
  }

  #closed({ seen: _, ...family }: OpenFamily): Family {
    const whole = {
      ...family,
      type: family.type ?? ('unknown' as const),
      unit: family.unit ?? '',
      help: family.help ?? '',
    }
    if (this.#form === 'openmetrics') {
      const wrong = finishFamily(whole)
      if (wrong !== null) throw new DocumentError(wrong.line, wrong.reason)
    }
    return whole
  }

  /** `# TYPE name type`, `# UNIT name unit`, `# HELP name text`. */
  #describe(text: string): void {
    const reader = new LineReader(text)
    const what = /^# (TYPE|UNIT|HELP) /.exec(text)?.[1]
    if (what === undefined)
      throw new LineError('a line with # is # TYPE, # UNIT, # HELP with a name, or # EOF')
    reader.skip(`# ${what} `)
    const name = reader.name('the name of a metric', true)
    const family = this.#familyFor(name)
    if (family.samples.length > 0) throw new LineError(`# ${what} of ${name} comes after its samples`)
    if (!reader.isAtEnd) reader.skip(' ')
    const rest = reader.rest()
    if (what === 'HELP') {
      if (family.help !== null) throw new LineError(`${name} has a second # HELP`)
      family.help = unescapeHelp(rest, this.#form)
    } else if (what === 'UNIT') {
      if (family.unit !== null) throw new LineError(`${name} has a second # UNIT`)
      if (!/^[a-zA-Z0-9_:]*$/.test(rest)) throw new LineError(`“${rest.slice(0, 40)}” is not a unit`)
      if (rest !== '' && !name.endsWith(`_${rest}`))
        throw new LineError(`${name} is said to be in ${rest} and does not end with _${rest}`)
      family.unit = rest
    } else {
      if (family.type !== null) throw new LineError(`${name} has a second # TYPE`)
      family.type = typeOf(rest, this.#form)
    }
  }

  #familyFor(name: string): OpenFamily {
    const known = this.#families.get(name)
    if (known !== undefined) {
      if (this.#current !== known && this.#form === 'openmetrics')
        throw new LineError(`${name} was told of before: the lines of one metric stay together`)
      this.#current = known
      return known
    }
    const made: OpenFamily = { name, type: null, unit: null, help: null, samples: [], seen: new Set() }
    this.#families.set(name, made)
    this.#current = made
    return made
  }

  #sample(text: string, line: number): void {
    if ((this.#count += 1) > MOST_SAMPLES)
      throw new LineError(`there are more than ${MOST_SAMPLES} samples; the rest was not read`)
    const isPlain = this.#form === 'plain'
    const reader = new LineReader(text, isPlain)
    const name = reader.name('the name of a metric', true)
    const labels = reader.labels()
    const value = reader.value()
    const time = reader.time()
    const exemplar = isPlain ? null : reader.exemplar()
    reader.end()
    const family = this.#familyOf(name)
    if (isPlain) {
      const key = keyOf(name, labels)
      if (family.seen.has(key)) throw new LineError(`${name} is there a second time with the same labels`)
      family.seen.add(key)
    } else if (exemplar !== null && !mayHaveExemplar(family, name))
      throw new LineError(`${name} may not have an exemplar: only a counter's total and a bucket do`)
    family.samples.push({ name, labels, value, atMs: time, exemplar, line })
  }

  /** The family that a sample belongs to, by its name and its suffix. */
  #familyOf(name: string): OpenFamily {
    const current = this.#current
    if (current !== null) {
      const suffixes = suffixesOf(current.type ?? 'unknown', this.#form)
      if (suffixes.some((suffix) => name === current.name + suffix)) return current
      if (name === current.name)
        throw new LineError(
          `${name} is a ${current.type}: its samples are called ${suffixes.map((suffix) => current.name + suffix).join(', ')}`,
        )
    }
    // A suffix may belong to a family that was told of before others.
    const base = this.#families.get(name.replace(/_(total|created|bucket|g?count|g?sum|info)$/, ''))
    if (base?.type != null && suffixesOf(base.type, this.#form).some((each) => name === base.name + each))
      return this.#familyFor(base.name)
    return this.#familyFor(name)
  }
}

const keyOf = (name: string, labels: Labels): string =>
  JSON.stringify([name, ...[...labels].sort(([a], [b]) => (a < b ? -1 : 1))])

const mayHaveExemplar = (family: OpenFamily, name: string): boolean =>
  (family.type === 'counter' && name.endsWith('_total')) ||
  ((family.type === 'histogram' || family.type === 'gaugehistogram') && name.endsWith('_bucket'))

function typeOf(text: string, form: DocumentForm): FamilyType {
  if (form === 'plain' && text.trim() === 'untyped') return 'unknown'
  const type = form === 'plain' ? text.trim() : text
  if (Object.hasOwn(LABEL_OF_TYPE, type)) return type as FamilyType
  throw new LineError(`“${text.slice(0, 40)}” is not a type of metric`)
}

function unescapeHelp(text: string, form: DocumentForm): string {
  return text.replaceAll(/\\(.)/g, (whole, sign: string) =>
    sign === 'n' ? '\n' : sign === '\\' || (sign === '"' && form === 'openmetrics') ? sign : whole,
  )
}
