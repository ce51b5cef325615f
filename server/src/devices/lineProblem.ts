/** What can go wrong between here and a device. */
type LineProblemCode =
  | 'closed'
  | 'no-connection'
  | 'refused'
  | 'no-port'
  | 'no-answer'
  | 'exception'
  | 'garbled'
  | 'not-mapped'
  | 'no-reading'

/** By the Modbus application protocol, what a device refuses with. */
const EXCEPTIONS: Readonly<Record<number, string>> = {
  1: 'it does not know that function',
  2: 'it has no such address',
  3: 'it does not take that value',
  4: 'it failed at it',
  5: 'it needs longer for it',
  6: 'it is busy',
  8: 'its memory has an error',
  10: 'the gateway has no way there',
  11: 'the device behind the gateway does not answer',
}

export const ILLEGAL_FUNCTION = 1
export const ILLEGAL_ADDRESS = 2
export const ILLEGAL_VALUE = 3
/** Of a gateway, whose device is not there. */
const NOT_THERE = [10, 11]

/** Why there is no reading, in a sentence for whoever looks after the device. */
export class LineProblem extends Error {
  constructor(
    readonly code: LineProblemCode,
    message: string,
    /** With which a Modbus device refuses. */
    readonly exception: number | null = null,
  ) {
    super(message)
    this.name = 'LineProblem'
  }

  /** Whether somebody is there, and answers what is asked. */
  get answered(): boolean {
    return this.code === 'exception' && !NOT_THERE.includes(this.exception ?? 0)
  }

  /** What the protocol's library rejected with, as a sentence. */
  static of(error: unknown, unit: number, answerMs: number): LineProblem {
    if (error instanceof LineProblem) return error
    const { modbusCode, message = String(error), name } = error as Error & { modbusCode?: number }
    if (modbusCode !== undefined) {
      const why = EXCEPTIONS[modbusCode] ?? `exception ${modbusCode}`
      return new LineProblem('exception', `Unit ${unit} refuses: ${why}.`, modbusCode)
    }
    if (name === 'TransactionTimedOutError' || /timed out/i.test(message)) {
      return new LineProblem('no-answer', `Unit ${unit} does not answer within ${answerMs} ms.`)
    }
    const other = /expected address (\d+) got (\d+)/.exec(message)
    if (other) return new LineProblem('garbled', `Unit ${other[2]} answered in place of unit ${other[1]}.`)
    if (/CRC|length error|expected/i.test(message)) {
      return new LineProblem('garbled', `What came back is no Modbus answer (${message}).`)
    }
    return new LineProblem('no-answer', `The line broke off (${message}).`)
  }
}
