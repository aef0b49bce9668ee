import type { RehearsalResult, RuleFields } from '#core/rules'

const POLL_MS = 250

interface Answer {
  readonly done: number
  readonly isFinished: boolean
  readonly isCancelled: boolean
  readonly result: RehearsalResult | null
  readonly problem: string | null
}

/** A rehearsal as it goes on: asked for, told how far it is, stopped. */
export class Rehearsal {
  state = $state<'idle' | 'running' | 'failed' | 'done'>('idle')
  done = $state(0)
  problem = $state<string | null>(null)
  result = $state.raw<RehearsalResult | null>(null)
  #id: string | null = null

  async start(asked: {
    readonly fields: RuleFields
    readonly insteadOf: number | null
    readonly days: number
    readonly wished: number | null
  }): Promise<void> {
    this.#id = null
    this.state = 'running'
    this.done = 0
    this.problem = null
    const reply = await fetch('/alerts/rules/rehearse', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(asked),
    }).catch(() => null)
    const body = (await reply?.json().catch(() => null)) as { id?: string; message?: string } | null
    if (body?.id === undefined) return this.#fail(body?.message ?? 'The server cannot be reached.')
    this.#id = body.id
    await this.#follow(body.id)
  }

  async cancel(): Promise<void> {
    const id = this.#id
    this.#id = null
    this.state = 'idle'
    if (id !== null) await fetch(`/alerts/rules/rehearse/${id}`, { method: 'DELETE' }).catch(() => null)
  }

  async #follow(id: string): Promise<void> {
    while (this.#id === id) {
      const reply = await fetch(`/alerts/rules/rehearse/${id}`).catch(() => null)
      const answer = reply?.ok ? ((await reply.json()) as Answer) : null
      if (this.#id !== id) return
      if (answer === null) return this.#fail('The server cannot be reached.')
      this.done = answer.done
      if (answer.isCancelled) return void (this.state = 'idle')
      if (answer.isFinished) {
        if (answer.result === null) return this.#fail(answer.problem ?? 'It could not be done.')
        this.result = answer.result
        this.state = 'done'
        return
      }
      await new Promise((resolve) => setTimeout(resolve, POLL_MS))
    }
  }

  #fail(problem: string): void {
    this.state = 'failed'
    this.problem = problem
  }
}
