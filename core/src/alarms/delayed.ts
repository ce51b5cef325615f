/** One thing that is raised or well: it changes once what is read has asked for the other state for long enough. */
export class Delayed {
  /** Since when the other state is asked for, epoch ms: start of its on-delay or off-delay. */
  private since: number | null = null

  constructor(public isRaised = false) {}

  /**
   * Returns whether it changed by this.
   * @param wants which state is asked for; null where nothing is known, which leaves a delay running
   */
  push(at: number, wants: boolean | null, delayMs: number): boolean {
    if (wants === null) return false
    if (wants === this.isRaised) {
      this.since = null
      return false
    }
    this.since ??= at
    if (at - this.since < delayMs) return false
    this.since = null
    this.isRaised = wants
    return true
  }

  /** A gap begins every delay anew. */
  gap(): void {
    this.since = null
  }
}
