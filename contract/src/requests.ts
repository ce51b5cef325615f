import { CAPTURE_STEPS, PH_BUFFERS, PH_STEPS, type PhStepKey, readTypedNumber } from '@frustum/core'
import { boolean, type InferType, mixed, number, object, string } from 'yup'

const stepKey = () => mixed<PhStepKey>().oneOf(PH_STEPS).required()
const captureStep = () => mixed<PhStepKey>().oneOf(CAPTURE_STEPS).required()
const standard = () =>
  string()
    .oneOf(PH_BUFFERS.map((b) => b.code))
    .required()
const note = () => string().trim().max(500, 'Keep the note under 500 characters.')
const reason = () => note().min(3, 'Say why in a few words.').required('Say why in a few words.')

/** Who is asking, and from which browser: one sensor's Bench is one person's at a time. */
const asker = {
  clientId: string().uuid().required(),
  operator: string().trim().min(1).max(80).required(),
}

export const startVisitBody = object({
  ...asker,
  position: string().max(40).required(),
  kind: mixed<'two-point' | 'check'>().oneOf(['two-point', 'check']).required(),
  first: standard(),
  second: standard(),
}).noUnknown()

export const takeOverBody = object(asker).noUnknown()

export const abandonBody = object({ ...asker, reason: reason() }).noUnknown()

export const doneBody = object({ ...asker, step: stepKey() }).noUnknown()

export const skipBody = object({ ...asker, step: stepKey(), reason: reason() }).noUnknown()

export const redoBody = object({ ...asker, step: stepKey(), reason: reason() }).noUnknown()

export const captureBody = object({
  ...asker,
  step: captureStep(),
  /** Set when taken before the judge calls it stable. */
  earlyReason: note().min(3, 'Say why in a few words.'),
}).noUnknown()

export const goOnBody = object(asker).noUnknown()

export const decideBody = object({
  ...asker,
  decision: mixed<'leave-alone' | 'adjust' | 'clean-and-recheck' | 'replace' | 'repeat'>()
    .oneOf(['leave-alone', 'adjust', 'clean-and-recheck', 'replace', 'repeat'])
    .required(),
  note: note(),
}).noUnknown()

interface TypedBounds {
  what: string
  low: number
  high: number
  unit: string
  decimals: number
}

/** A number typed by hand: comma or point, within bounds, and a thousandfold slip named as such. */
function typedNumber({ what, low, high, unit, decimals }: TypedBounds) {
  const expected = `${low} to ${high}${unit ? ` ${unit}` : ''}`
  return string()
    .required(`Type the ${what}, ${expected}.`)
    .test('typed-number', `Type the ${what} as a number, ${expected}.`, function (text) {
      const typed = readTypedNumber(text ?? '')
      if (!typed.ok) {
        const message =
          typed.problem === 'empty'
            ? `Type the ${what}, ${expected}.`
            : `"${text}" is not a number. Type the ${what}, such as ${((low + high) / 2).toFixed(decimals)}.`
        return this.createError({ message })
      }
      if (typed.value >= low && typed.value <= high) return true
      const slip = [10, 100, 1000].find((f) => typed.value / f >= low && typed.value / f <= high && typed.value > high)
      const hint = slip ? ` Was it ${(typed.value / slip).toFixed(decimals)}? A decimal mark seems to be missing.` : ''
      return this.createError({ message: `The ${what} is ${text}; it must lie within ${expected}.${hint}` })
    })
}

export const PH_BOUNDS = { what: 'pH', low: -1, high: 15, unit: '', decimals: 2 } as const
export const MILLIVOLT_BOUNDS = { what: 'potential', low: -1000, high: 1000, unit: 'mV', decimals: 1 } as const
export const TEMPERATURE_BOUNDS = { what: 'temperature', low: -5, high: 110, unit: '°C', decimals: 1 } as const

/** What the fields of a typed reading must hold, by what the device shows. */
export const typedReadingFields = (shows: 'millivolt' | 'value') =>
  object({
    value: typedNumber(shows === 'value' ? PH_BOUNDS : MILLIVOLT_BOUNDS),
    temperature: typedNumber(TEMPERATURE_BOUNDS),
  })

export type TypedReadingFields = InferType<ReturnType<typeof typedReadingFields>>

export const typedReadingBody = (shows: 'millivolt' | 'value') =>
  object({ ...asker, step: captureStep() })
    .concat(typedReadingFields(shows))
    .noUnknown()

export const shownAfterFields = object({ shownAfter: typedNumber(PH_BOUNDS) })

export const applyBody = object({
  ...asker,
  /** `link`: written by the program; `keyed`: the operator keyed it in and says what the device shows now. */
  way: mixed<'link' | 'keyed'>().oneOf(['link', 'keyed']).required(),
  shownAfter: string().when('way', {
    is: 'keyed',
    // biome-ignore lint/suspicious/noThenProperty: this is the name that Yup gives the branch
    then: () => typedNumber(PH_BOUNDS),
    otherwise: (s) => s.optional(),
  }),
}).noUnknown()

export const standInBody = object({
  immersion: number().integer().min(0).max(6),
  faults: number().integer().min(0).max(63),
  wipe: boolean(),
  keyIn: object({
    slopePercent: number().min(10).max(150).required(),
    zero: number().min(-300).max(300).required(),
  }).default(undefined),
}).noUnknown()

export type StartVisitBody = InferType<typeof startVisitBody>
export type StandInBody = InferType<typeof standInBody>
