import AxeBuilder from '@axe-core/playwright'
import type { Locator } from '@playwright/test'
import { addressOf, expect, type Page } from './hydrated.ts'
import { intervalAt } from './places.ts'

/** Of the stand-ins of the installation that this test looks at. */
const control = (path: string): string => `http://127.0.0.1:${Number(new URL(addressOf()).port) + 10}/${path}`

/** So many intervals of the installation that this test looks at. */
export const intervalsMs = (count: number): number => count * intervalAt(addressOf())

/** Three intervals, and what the screen takes to gather and draw a change on a machine that has little time for it. */
export const threeIntervalsMs = (): number => intervalsMs(3) + 45_000

interface Fault {
  readonly gear: string
  readonly fault?: string
  readonly part?: string
  readonly pace?: number
}

async function order(verb: 'cause' | 'mend', fault: Fault): Promise<void> {
  const reply = await fetch(control(verb), { method: 'POST', body: JSON.stringify(fault) })
  if (!reply.ok) throw new Error(await reply.text())
}
export const cause = (fault: Fault): Promise<void> => order('cause', fault)
export const mend = (gear: string): Promise<void> => order('mend', { gear })

export interface Mail {
  readonly receivedAt: string
  readonly subject: string
  readonly text: string
  readonly html: string
}

/** What the mail sink has received. */
export async function mails(): Promise<Mail[]> {
  return ((await (await fetch(control('mails'))).json()) as { mails: Mail[] }).mails
}

/** What the gateway for text messages has received. */
export async function texts(): Promise<{ readonly to: string; readonly text: string }[]> {
  return ((await (await fetch(control('texts'))).json()) as { texts: { to: string; text: string }[] }).texts
}

/** What the hooks have received. */
export async function hooks(): Promise<{ readonly isSigned: boolean; readonly body: unknown }[]> {
  return ((await (await fetch(control('hooks'))).json()) as { hooks: { isSigned: boolean; body: unknown }[] })
    .hooks
}

/** Of five messages in a minute the next ones go together as one; with so few of them each goes by itself. */
const FEW_MAILS = 2
async function mailsOfLastMinute(): Promise<number> {
  return (await mails()).filter(({ receivedAt }) => Date.now() - Date.parse(receivedAt) < 60_000).length
}

/**
 * Waits until nothing of an earlier test is open whose headline says this, and until what is told next is told by itself:
 * an installation that has just begun tells of a dozen things at once.
 */
export async function settled(page: Page, headline: RegExp): Promise<void> {
  await expect.poll(mailsOfLastMinute, { timeout: 150_000 }).toBeLessThanOrEqual(FEW_MAILS)
  await page.goto('/')
  const rows = page.getByTestId('alert-row').filter({ has: page.getByRole('link', { name: headline }) })
  await expect(rows).toHaveCount(0, { timeout: 60_000 })
}

/** What an earlier try has left quiet is so no longer. */
export async function endQuiets(page: Page, words: string): Promise<void> {
  await page.goto('/alerts/quiet')
  const rows = page
    .getByTestId('quiet-row')
    .filter({ hasText: words })
    .filter({ has: page.getByRole('button') })
  for (let left = await rows.count(); left > 0; left -= 1) {
    await rows.first().getByRole('button').click()
    await expect(rows).toHaveCount(left - 1)
  }
}

/** A control of a form, by the name under which it is sent. */
export const field = (page: Page, name: string): Locator =>
  page.locator(`[data-field="${name}"], input:not([type="hidden"])[name="${name}"], textarea[name="${name}"]`)

/** Chooses one of a list: by its words, or by what is sent. In a list that is searched its words are typed. */
export async function choose(control: Locator, wanted: string | { readonly value: string }): Promise<void> {
  const options = control.page().getByRole('option')
  await control.click()
  if (typeof wanted === 'string') {
    if ((await control.evaluate(({ tagName }) => tagName)) === 'INPUT') await control.fill(wanted)
    await options
      .filter({ hasText: new RegExp(`^\\W*${wanted.replaceAll(/[.*+?^${}()|[\]\\]/g, '\\$&')}$`) })
      .first()
      .click()
  } else await control.page().locator(`[role="option"][data-value="${wanted.value}"]`).click()
  await expect(options).toHaveCount(0)
}

/** Nothing may scroll sideways. */
export async function expectNoSidewaysScroll(page: Page): Promise<void> {
  expect(await page.evaluate(() => document.documentElement.scrollWidth - innerWidth)).toBeLessThanOrEqual(0)
}

/**
 * Nothing that is serious for assistive technology; by all rules, or by those named. No page here has frames and no style
 * sheet is from elsewhere, so that nothing is looked for in them; that takes two thirds of the time away.
 */
export async function expectNothingSerious(page: Page, rules?: readonly string[]): Promise<void> {
  const axe = new AxeBuilder({ page })
    .setLegacyMode(true)
    .options({ resultTypes: ['violations'], preload: false })
  const { violations } = await (rules === undefined ? axe : axe.withRules([...rules])).analyze()
  const serious = violations.filter(({ impact }) => impact === 'serious' || impact === 'critical')
  expect(serious.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([])
}
