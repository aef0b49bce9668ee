import type { Night, NightStep } from './nights.ts'

/** What a step is, in words: of one that no stand-in does, what whoever watches is to do. */
export function stepWords(step: NightStep): string {
  switch (step.does) {
    case 'cause':
      return `${step.gear}: ${[step.fault, step.part].filter(Boolean).join(' ')}`
    case 'mend':
      return `${step.gear}: mended`
    case 'say':
      return `to be done by hand: have ${step.gear} say “${step.text}” by syslog, ${step.times} times`
    case 'quiet':
      return `to be done by hand: quiet ${step.gear} for ${step.forMin} min, because ${step.because}`
    case 'blind':
      return 'to be done by hand: take the network from the collector'
    case 'see':
      return 'to be done by hand: give it back'
    case 'set clock':
      return `to be done by hand: set the clock of ${step.source} ${step.aheadS} s ahead`
    default:
      return step satisfies never
  }
}

/**
 * Plays a night in a running demo.
 * @param pace how many times faster than life: 20 plays an hour in three minutes
 * @param order what the stand-ins are told
 */
export async function playLive(
  night: Night,
  pace: number,
  order: (verb: 'cause' | 'mend', body: object) => Promise<unknown>,
  say: (words: string) => void,
): Promise<void> {
  const beganMs = Date.now()
  for (const step of [...night.steps].sort((a, b) => a.atMin - b.atMin)) {
    const waitMs = beganMs + (step.atMin * 60_000) / pace - Date.now()
    await new Promise((resolve) => setTimeout(resolve, Math.max(0, waitMs)))
    say(`${String(step.atMin).padStart(3)} min  ${stepWords(step)}`)
    if (step.does === 'cause')
      await order('cause', {
        gear: step.gear,
        fault: step.fault,
        part: step.part ?? null,
        pace: pace * (step.pace ?? 1),
      })
    if (step.does === 'mend')
      await order('mend', { gear: step.gear, fault: step.fault, part: step.part ?? null })
  }
}
