/** Something the caller can act on: the fact, its detail and a hint, each apart. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly more: { detail?: string; hint?: string; fields?: Record<string, string> } = {},
  ) {
    super(message)
    this.name = 'Problem'
  }
}

export const notFound = (what: string) => new Problem(404, 'not-found', `There is no such ${what}.`)

/** A reason not to start: printed as one line before the process ends. */
export class StartProblem extends Error {}
