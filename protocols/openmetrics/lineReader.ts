import type { Exemplar, Labels } from './shape.ts'
import { instantOf, numberOf } from './number.ts'

/** What is wrong with one line. */
export class LineError extends Error {}

const isLetter = (code: number): boolean =>
  (code >= 0x61 && code <= 0x7a) || (code >= 0x41 && code <= 0x5a) || code === 0x5f
const isDigit = (code: number): boolean => code >= 0x30 && code <= 0x39
const COLON = 0x3a
const MOST_EXEMPLAR = 128

/** Goes through one line from left to right, each character once. */
export class LineReader {
  readonly #text: string
  readonly #isPlain: boolean
  #at = 0

  constructor(text: string, isPlain = false) {
    this.#text = text
    this.#isPlain = isPlain
  }

  get isAtEnd(): boolean {
    return this.#at >= this.#text.length
  }

  skip(expected: string): void {
    if (!this.#text.startsWith(expected, this.#at))
      throw new LineError(`“${expected}” is expected before “${this.#ahead()}”`)
    this.#at += expected.length
  }

  rest(): string {
    const rest = this.#text.slice(this.#at)
    this.#at = this.#text.length
    return rest
  }

  /** Letters, digits and underscores; a colon too in the name of a metric. */
  name(what: string, mayColon: boolean): string {
    const start = this.#at
    for (; this.#at < this.#text.length; this.#at += 1) {
      const code = this.#text.charCodeAt(this.#at)
      const isOk = isLetter(code) || (mayColon && code === COLON) || (this.#at > start && isDigit(code))
      if (!isOk) break
    }
    if (this.#at === start) throw new LineError(`${what} is expected before “${this.#ahead()}”`)
    return this.#text.slice(start, this.#at)
  }

  labels(): Labels {
    const labels = new Map<string, string>()
    this.#blanks()
    if (this.#text[this.#at] !== '{') return labels
    this.#at += 1
    for (;;) {
      this.#blanks()
      // The plain form lets a comma stand before the end.
      if (this.#text[this.#at] === '}' && (labels.size === 0 || this.#isPlain)) break
      const name = this.name('the name of a label', false)
      this.#blanks()
      this.skip('=')
      this.#blanks()
      const value = this.#quoted()
      if (labels.has(name)) throw new LineError(`the label ${name} is there twice`)
      labels.set(name, value)
      this.#blanks()
      if (this.#text[this.#at] === '}') break
      this.skip(',')
    }
    this.#at += 1
    return labels
  }

  /** A blank, then a number. */
  value(): number {
    const word = this.#word('a value')
    const value = numberOf(word)
    if (value === null) throw new LineError(`“${word.slice(0, 40)}” is not a number`)
    return value
  }

  /** A blank and an instant, when there is one. @returns ms since the epoch */
  time(): number | null {
    if (this.isAtEnd || this.#text.startsWith(' # ', this.#at)) return null
    const word = this.#word('a time')
    const atMs = instantOf(word, this.#isPlain ? 'milliseconds' : 'seconds')
    if (atMs === null)
      throw new LineError(`“${word.slice(0, 40)}” is not a time in ${this.#isPlain ? 'ms' : 'seconds'}`)
    return atMs
  }

  exemplar(): Exemplar | null {
    if (this.isAtEnd) return null
    this.skip(' # ')
    if (this.#text[this.#at] !== '{') throw new LineError('an exemplar begins with its labels in braces')
    const labels = this.labels()
    const length = [...labels].reduce((sum, [name, value]) => sum + [...name].length + [...value].length, 0)
    if (length > MOST_EXEMPLAR)
      throw new LineError(
        `the labels of its exemplar have ${length} characters; ${MOST_EXEMPLAR} are allowed`,
      )
    return { labels, value: this.value(), atMs: this.time() }
  }

  end(): void {
    if (!this.isAtEnd) throw new LineError(`“${this.#ahead()}” follows where the line should end`)
  }

  #word(what: string): string {
    if (this.#isPlain) this.#blanks()
    else this.skip(' ')
    const start = this.#at
    while (this.#at < this.#text.length) {
      const sign = this.#text[this.#at]
      if (sign === ' ' || (this.#isPlain && sign === '\t')) break
      this.#at += 1
    }
    if (this.#at === start) throw new LineError(`${what} is expected before “${this.#ahead()}”`)
    const word = this.#text.slice(start, this.#at)
    if (this.#isPlain) this.#blanks()
    return word
  }

  #blanks(): void {
    if (!this.#isPlain) return
    while (this.#text[this.#at] === ' ' || this.#text[this.#at] === '\t') this.#at += 1
  }

  #quoted(): string {
    this.skip('"')
    let value = ''
    let start = this.#at
    for (; this.#at < this.#text.length; this.#at += 1) {
      const sign = this.#text[this.#at]
      if (sign === '"') {
        value += this.#text.slice(start, this.#at)
        this.#at += 1
        return value
      }
      if (sign !== '\\') continue
      const escaped = this.#text[this.#at + 1]
      if (escaped === 'n' || escaped === '"' || escaped === '\\') {
        value += this.#text.slice(start, this.#at) + (escaped === 'n' ? '\n' : escaped)
        start = this.#at + 2
      }
      // Any other pair stands for itself.
      this.#at += 1
    }
    throw new LineError('the value of a label has no closing quote')
  }

  #ahead(): string {
    const ahead = this.#text.slice(this.#at, this.#at + 24)
    return ahead === '' ? 'the end of the line' : ahead
  }
}
