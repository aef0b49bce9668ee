import { expect, type Page } from '@playwright/test'
import { DEMO, INTERVAL_MS } from './places.ts'

const CONTROL = `http://127.0.0.1:${DEMO.port + 10}`

/** Three intervals, and what the screen takes to gather and draw a change. */
export const THREE_INTERVALS_MS = 3 * INTERVAL_MS + 4000

interface Fault {
  readonly gear: string
  readonly fault?: string
  readonly part?: string
  readonly pace?: number
}

async function control(verb: 'cause' | 'mend', fault: Fault): Promise<void> {
  const reply = await fetch(`${CONTROL}/${verb}`, { method: 'POST', body: JSON.stringify(fault) })
  if (!reply.ok) throw new Error(await reply.text())
}
export const cause = (fault: Fault): Promise<void> => control('cause', fault)
export const mend = (gear: string): Promise<void> => control('mend', { gear })

export interface Mail {
  readonly subject: string
  readonly text: string
}

/** What the mail sink has received. */
export async function mails(): Promise<Mail[]> {
  return ((await (await fetch(`${CONTROL}/mails`)).json()) as { mails: Mail[] }).mails
}

/** Waits until nothing of an earlier test is open whose headline says this. */
export async function settled(page: Page, headline: RegExp): Promise<void> {
  await page.goto('/')
  const rows = page.getByTestId('alert-row').filter({ has: page.getByRole('link', { name: headline }) })
  await expect(rows).toHaveCount(0, { timeout: 60_000 })
}

/** Nothing may scroll sideways. */
export async function expectNoSidewaysScroll(page: Page): Promise<void> {
  expect(await page.evaluate(() => document.documentElement.scrollWidth - innerWidth)).toBeLessThanOrEqual(0)
}
