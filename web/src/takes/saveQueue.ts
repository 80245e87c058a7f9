/** How a queue of saves speaks to what is around it. */
export interface Saving<Content, Answer> {
  send: (id: string, content: Content) => Promise<Answer>
  /** The answer to the latest change; earlier ones would take later changes back. */
  saved: (answer: Answer) => void
  /** What was refused; `latest` says that nothing was changed since. */
  refused: (id: string, fault: unknown, latest: boolean) => void
  /** Whether anything waits to be saved or is on its way. */
  unsaved: (now: boolean) => void
}

/**
 * Saves what is changed soon after it is changed, one save after another, each with the newest content there is.
 *
 * @example
 * const queue = new SaveQueue(saving, 220)
 * queue.change('a', steps)       // soon
 * queue.change('a', steps, true) // at once
 * await queue.settle()           // everything is saved
 */
export class SaveQueue<Content, Answer> {
  private waiting: { id: string; content: Content } | null = null
  private changes = 0
  private timer: ReturnType<typeof setTimeout> | undefined
  private chain: Promise<void> = Promise.resolve()

  constructor(
    private readonly saving: Saving<Content, Answer>,
    private readonly patience: number,
  ) {}

  change(id: string, content: Content, atOnce = false) {
    this.waiting = { id, content }
    this.changes += 1
    this.saving.unsaved(true)
    clearTimeout(this.timer)
    if (atOnce) this.save()
    else this.timer = setTimeout(() => this.save(), this.patience)
  }

  /** Send what waits now. */
  save() {
    clearTimeout(this.timer)
    const sending = this.waiting
    this.waiting = null
    if (!sending) return
    const sent = this.changes
    this.chain = this.chain.then(() => this.send(sending.id, sending.content, sent))
  }

  /** Everything changed so far is saved, or refused, once this resolves. */
  async settle() {
    this.save()
    await this.chain
  }

  private async send(id: string, content: Content, sent: number) {
    try {
      const answer = await this.saving.send(id, content)
      if (this.changes === sent) this.saving.saved(answer)
    } catch (fault) {
      this.saving.refused(id, fault, this.changes === sent)
    } finally {
      if (this.changes === sent) this.saving.unsaved(false)
    }
  }
}
