import { observeFrom } from './assess.ts'
import type { Assessment, Procedure, VisitState } from './procedure.ts'
import type { Step } from './step.ts'
import { afterResult, clean, float, foundProcess, foundStandard, hold, points, result } from './steps.ts'

type Heading = Omit<Procedure, 'steps' | 'judge' | 'observe'>

interface Calibration {
  /** Roles of the points, in order; the first is also read as found, and verified in. */
  points: readonly string[]
  /** Over the result. */
  title: string
  /** What comes between cleaning and the points; the points rest on the last of it. */
  zero?: (e: VisitState) => readonly Step[]
  judge: (e: VisitState) => Assessment | null
}

/** The usual course of a calibration: hold, as found, clean, points, result, apply, verify, back, release. */
export function calibrationProcedure(heading: Heading, calibration: Calibration): Procedure {
  const { points: roles, title, zero, judge } = calibration
  const first = roles[0] as string
  return {
    ...heading,
    steps: (e) => [
      hold(e),
      ...float(e),
      ...(e.kind.inPlace?.(e) ?? []),
      foundProcess(e),
      foundStandard(e, first),
      clean(e),
      ...afterCleaning(e, { roles, title, zero: zero?.(e) ?? [] }),
    ],
    judge: (e) => judge(e),
    observe: (e) => observeFrom(e, judge(e)),
  }
}

/** From the cleaned sensor on: a zero where there is one, the points, their result, and what follows from it. */
export function afterCleaning(
  e: VisitState,
  { roles, title, zero }: { roles: readonly string[]; title: string; zero: readonly Step[] },
): Step[] {
  const before = zero.at(-1)?.key
  const rests = before ? [before] : []
  return [
    ...zero,
    ...points(e, roles).map((s) => ({ ...s, after: [...s.after, ...rests] })),
    result([...roles.map((_, i) => `point-${i + 1}`), ...rests], title, 'point-1'),
    ...afterResult(e, roles),
  ]
}
