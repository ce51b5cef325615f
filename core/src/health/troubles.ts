import { CAUSE_WORDS, type Cause } from './causes.ts'
import { diagnose } from './diagnose.ts'
import { diagnosed } from './diagnosed.ts'
import { evidenceOf, type HealthRecord } from './evidence.ts'

/** Something that was wrong for a while. */
export interface Trouble {
  cause: Cause
  name: string
  /** The visits that met it first and last, epoch ms, and how likely it was at most. */
  from: number
  until: number
  probability: number
}

export interface TroubleHistory {
  /** The first of the visits at which the cause that is likeliest now was so; null where nothing is wrong. */
  since: number | null
  /** What came and went, newest first. */
  past: Trouble[]
}

/** So many visits are looked back on: each is diagnosed anew with what was known then. */
const LOOKED_BACK = 16
/** Fewer tell no cause. */
const LEAST_VISITS = 4

/**
 * What was wrong with a sensor before now, and since when it is what it is: every newer visit diagnosed with what was
 * known at it. Answers of tests count for now only, as do those of today's events.
 * @param record visits oldest first
 */
export function troublesOf(record: HealthRecord): TroubleHistory {
  const { visits, events, tests, now } = record
  const first = Math.max(LEAST_VISITS, visits.length - LOOKED_BACK)
  const then = visits.slice(first - 1).map((visit, i) => {
    const isLast = first + i === visits.length
    return {
      at: visit.at,
      ...diagnose(
        record.traits,
        evidenceOf({
          ...record,
          visits: visits.slice(0, first + i),
          events: events.filter((e) => e.at <= visit.at || isLast),
          now: isLast ? now : visit.at,
          tests: isLast ? tests : {},
        }),
      ),
    }
  })
  const present = then.at(-1)?.ranked[0]?.cause
  const otherwise = then.findLastIndex((t) => t.ranked[0]?.cause !== present)
  const past: Trouble[] = []
  for (const [i, t] of then.entries()) {
    const found = t.tooLittle ? null : diagnosed(t)
    if (!found || (found.cause === present && i > otherwise)) continue
    const open = past.at(-1)
    if (open?.cause === found.cause && open.until === then[i - 1]?.at) {
      open.until = t.at
      open.probability = Math.max(open.probability, found.probability)
    } else {
      const { cause, probability } = found
      past.push({ cause, name: CAUSE_WORDS[cause].name, from: t.at, until: t.at, probability })
    }
  }
  const isTrouble = present !== undefined && present !== 'nothing'
  return { since: isTrouble ? (then[otherwise + 1]?.at ?? null) : null, past: past.toReversed() }
}
