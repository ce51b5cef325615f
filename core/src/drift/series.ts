import { DAY_MS, type DriftObservation } from './observation.ts'

/** A visit as the record has it, in the order in which it was recorded. */
export interface RecordedVisit extends DriftObservation {
  id: string
  /** Taken out of the forecast by hand, and why. */
  excluded?: string | null
  /** Made under another set-up, and not to be carried over. */
  elsewhere?: boolean
}

type SetAsideWhy = 'excluded' | 'same instant' | 'in the future' | 'before installation' | 'no number' | 'elsewhere'

export interface SetAside {
  id: string
  at: number
  why: SetAsideWhy
  sentence: string
}

export interface DriftSeries {
  observations: DriftObservation[]
  /** Visits that do not count, each with its reason: they stay in the record and are shown. */
  setAside: SetAside[]
}

/** A clock may be a little ahead of this one. */
const CLOCK_SLACK_MS = DAY_MS / 24

const SENTENCES: Record<Exclude<SetAsideWhy, 'excluded'>, string> = {
  'same instant': 'Another visit is recorded at the same instant; the one recorded later counts.',
  'in the future': 'Its time lies ahead of now: a clock was set wrong. It does not count until its time is corrected.',
  'before installation':
    'Its time lies before the sensor was installed: a clock was set wrong, or it is of another sensor.',
  'no number': 'Its error as left is no number.',
  elsewhere:
    'It was made in other water, or with the device set otherwise. A check alone does not say how the sensor errs now.',
}

/**
 * The visits of one installation that drift is computed from, in order of time whatever the order of the record, and
 * those that are set aside.
 */
export function driftSeries(
  recorded: readonly RecordedVisit[],
  { installedAt, now }: { installedAt: number; now: number },
): DriftSeries {
  const setAside: SetAside[] = []
  const byInstant = new Map<number, RecordedVisit>()
  const aside = (visit: RecordedVisit, why: SetAsideWhy, sentence: string) =>
    setAside.push({ id: visit.id, at: visit.at, why, sentence })
  for (const visit of recorded) {
    const why = reasonAgainst(visit, installedAt, now)
    if (visit.excluded) aside(visit, 'excluded', `Excluded by hand: ${visit.excluded}`)
    else if (why) aside(visit, why, SENTENCES[why])
    else {
      const earlier = byInstant.get(visit.at)
      if (earlier) aside(earlier, 'same instant', SENTENCES['same instant'])
      byInstant.set(visit.at, visit)
    }
  }
  const observations = [...byInstant.values()]
    .toSorted((a, b) => a.at - b.at)
    .map(({ at, asFound, asLeft, uncertainty, adjusted, beside }) => ({
      at,
      asFound,
      asLeft,
      uncertainty,
      adjusted,
      ...(beside ? { beside } : {}),
    }))
  return { observations, setAside: setAside.toSorted((a, b) => a.at - b.at) }
}

function reasonAgainst(
  visit: RecordedVisit,
  installedAt: number,
  now: number,
): Exclude<SetAsideWhy, 'excluded'> | null {
  if (!Number.isFinite(visit.at) || !Number.isFinite(visit.asLeft) || !Number.isFinite(visit.asFound ?? 0)) {
    return 'no number'
  }
  if (visit.elsewhere) return 'elsewhere'
  if (visit.at > now + CLOCK_SLACK_MS) return 'in the future'
  // The visit that commissions a sensor begins a little before the sensor counts as installed.
  return visit.at < installedAt - DAY_MS ? 'before installation' : null
}
