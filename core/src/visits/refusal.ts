/** Why a command isn't accepted: its detail and what to do, separately. */
export interface Refusal {
  /** What was entered is wrong, or the visit is in a state that doesn't allow it. */
  because: 'input' | 'state'
  code: string
  detail?: string
  hint?: string
  /** What is wrong with each field. */
  fields?: Record<string, string>
}

/** A command that a visit doesn't accept. Nothing was recorded. */
export class VisitRefusal extends Error {
  constructor(
    message: string,
    readonly refusal: Refusal,
  ) {
    super(message)
    this.name = 'VisitRefusal'
  }
}
