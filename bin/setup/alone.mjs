// What changes the checkout itself is done by one at a time: two starts at once would install or build into each other.
import { readFileSync, rmSync, writeFileSync } from 'node:fs'
import { say } from './say.mjs'

const LOOKS_MS = 300

/**
 * Does a work that several may ask for at once. Who comes second waits, and finds it done. A lock whose holder has died is
 * taken away.
 * @param {{ lock: string, isDone: () => boolean, work: () => void }} what
 */
export function alone({ lock, isDone, work }) {
  let hasSaid = false
  while (!isDone()) {
    if (isTaken(lock)) {
      try {
        if (!isDone()) work()
      } finally {
        rmSync(lock, { force: true })
      }
      return
    }
    const holder = holderOf(lock)
    if (holder !== null && !isAlive(holder)) {
      // Looked at again: another one that waited may have taken it meanwhile.
      if (holderOf(lock) === holder) rmSync(lock, { force: true })
      continue
    }
    if (!hasSaid) say(`process ${holder ?? 'of another start'} is setting up here already; waiting for it`)
    hasSaid = true
    Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, LOOKS_MS)
  }
}

/** @param {string} lock */
function isTaken(lock) {
  try {
    writeFileSync(lock, String(process.pid), { flag: 'wx' })
    return true
  } catch (error) {
    if (error instanceof Error && 'code' in error && error.code === 'EEXIST') return false
    throw error
  }
}

/** Null: it has just gone, or its name is not written yet. @param {string} lock */
function holderOf(lock) {
  try {
    return Number(readFileSync(lock, 'utf8')) || null
  } catch {
    return null
  }
}

/** @param {number} pid */
function isAlive(pid) {
  try {
    process.kill(pid, 0)
    return true
  } catch (error) {
    return error instanceof Error && 'code' in error && error.code === 'EPERM'
  }
}
