// Loaded before a process: its clock is off by as many milliseconds as a file says, as if somebody had set it. How long
// something takes is measured as before.
import { readFileSync } from 'node:fs'

const path = process.env['RACK_SHIFTED_CLOCK'] ?? ''
const RealDate = Date
let offMs = 0
const read = () => {
  try {
    offMs = Number(readFileSync(path, 'utf8'))
  } catch {
    // It is written at this moment.
  }
}
read()
setInterval(read, 50).unref()

// @ts-expect-error called without `new` it would be text, which nobody does
globalThis.Date = class extends RealDate {
  /** @param {...any} given */
  constructor(...given) {
    if (given.length === 0) super(RealDate.now() + offMs)
    // @ts-expect-error whatever a date is made of
    else super(...given)
  }
  static now() {
    return RealDate.now() + offMs
  }
}
