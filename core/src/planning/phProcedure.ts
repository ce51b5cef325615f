/** Steps of a pH visit, in order. The key is kept in records. */
export const PH_STEPS = [
  'hold',
  'found-process',
  'found-buffer',
  'verdict',
  'clean',
  'first-buffer',
  'rinse',
  'second-buffer',
  'result',
  'apply',
  'verify',
  'back',
  'release',
] as const

export type PhStepKey = (typeof PH_STEPS)[number]

export type VisitKind = 'two-point' | 'check'

/** Steps at which a settled reading is captured. */
export const CAPTURE_STEPS: readonly PhStepKey[] = [
  'found-process',
  'found-buffer',
  'first-buffer',
  'second-buffer',
  'verify',
  'back',
]

const CHECK_ONLY: readonly PhStepKey[] = ['hold', 'found-process', 'found-buffer', 'verdict', 'back', 'release']

/** What was decided so far that changes which steps are left. */
export interface VisitCourse {
  kind: VisitKind
  /** The check went on to a calibration. */
  wentOn: boolean
  /** The decision on the result, once made: an electrode that is left alone is not adjusted. */
  adjusts: boolean | null
}

/**
 * The steps of a visit as it stands. A check is the short form; when it goes on to calibrate, the steps of the
 * calibration follow its verdict. A result that is not applied needs no apply and no verify.
 */
export function phProcedure(course: VisitCourse): PhStepKey[] {
  if (course.kind === 'check' && !course.wentOn) return [...CHECK_ONLY]
  return PH_STEPS.filter((step) => {
    if (step === 'verdict') return course.kind === 'check'
    if (step === 'apply' || step === 'verify') return course.adjusts !== false
    return true
  })
}

/** The first step not done yet, or null when all are. */
export function currentStep(steps: readonly PhStepKey[], done: ReadonlySet<PhStepKey>): PhStepKey | null {
  return steps.find((step) => !done.has(step)) ?? null
}

/** Standards usual for a process value: the second lies beyond it, the first is 7.00. */
export function proposeBuffers(processPh: number): { first: string; second: string } {
  return { first: 'pH7.00', second: processPh >= 7 ? 'pH10.01' : 'pH4.01' }
}
