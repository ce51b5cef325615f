/** One line that says what is being done; on a terminal each word takes the place of the last, elsewhere there is a line each. */
export class Progress {
  private last = ''

  constructor(private readonly out: NodeJS.WriteStream = process.stdout) {}

  say(what: string): void {
    if (what === this.last) return
    this.last = what
    this.out.write(this.out.isTTY ? `\r\x1b[K${what} ...` : `${what} ...\n`)
  }

  /** Clears the line for what comes after it. */
  end(): void {
    if (this.last && this.out.isTTY) this.out.write('\r\x1b[K')
    this.last = ''
  }
}
