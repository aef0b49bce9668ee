/** What could not be done last, for everybody who looks at the page; `null` when nothing. */
class FailedRequest {
  message = $state<string | null>(null)

  say(message: string): void {
    this.message = message
  }

  forget(): void {
    this.message = null
  }
}

export const failedRequest = new FailedRequest()
