import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { DAY_MS } from '../drift/observation.ts'

import { kindOf, sensorKinds } from '../kinds/index.ts'
import type { SensorKind } from '../measurement/sensorKind.ts'
import { CAUSES, type Cause } from './causes.ts'
import { diagnose } from './diagnose.ts'
import { evidenceOf, type HealthRecord } from './evidence.ts'
import { type Answer, type DiagnosticEvidence, FEATURES, type Feature } from './features.ts'
import type { HealthVisit } from './healthVisit.ts'
import { troublesOf } from './troubles.ts'

/**
 * Records written by hand, figure by figure, as the troubleshooting chapters of electrode handbooks describe each fault
 * (from memory), and not drawn from the simulator that the likelihoods are tried on.
 */

const MONTH = 30 * DAY_MS
const NOW = 18 * MONTH

const SOUND: Omit<HealthVisit, 'at'> = {
  zero: -4,
  slope: 0.981,
  settlingSeconds: 45,
  noise: 0.1,
  noiseApart: 1.4,
  processNoise: 0.15,
  againstBefore: null,
  hysteresis: 0.4,
  cleaning: null,
  cleaningAway: null,
  fasterAfterCleaning: null,
  cellFactor: null,
  tankAlone: null,
  tankNow: null,
  tankByBefore: null,
  temperatureError: null,
  processWarmer: null,
  standardTemperature: null,
  standardsDisagree: false,
  sharedShift: null,
  ownShift: null,
  junctionResistance: null,
  glassResistance: null,
  deviceNumbersChanged: false,
}

interface Course {
  kind?: SensorKind
  /** Of month 0 to 17: what differs from a sound sensor. */
  figures: (month: number) => Partial<HealthVisit>
  events?: HealthRecord['events']
  tests?: DiagnosticEvidence
}

const recordOf = ({ kind = 'ph', figures, events = [], tests = {} }: Course): HealthRecord => ({
  traits: kindOf(kind).health,
  visits: Array.from({ length: 18 }, (_, month) => ({ ...SOUND, at: month * MONTH, ...figures(month) })),
  events,
  installedAt: 0,
  now: NOW,
  tests,
})
const judged = (course: Course) => {
  const record = recordOf(course)
  return diagnose(record.traits, evidenceOf(record))
}
/** Grows from zero at `start` by `each` a month. */
const from = (start: number, month: number, each = 1) => Math.max(0, month - start) * each
const cell = (factor: number, over: Partial<HealthVisit> = {}): Partial<HealthVisit> => ({
  zero: null,
  slope: null,
  hysteresis: null,
  cellFactor: factor,
  ...over,
})

const CASES: Record<Cause, Course> = {
  nothing: { figures: (m) => ({ zero: -4 + (m % 3) * 0.6, slope: 0.98 + (m % 2) * 0.002 }) },
  // The zero runs away while the slope stays; it brings the settling along, and a refill puts it right.
  'electrolyte-used-up': {
    figures: (m) => ({ zero: -4 - from(11, m, 4), settlingSeconds: 45 + from(12, m, 9) }),
    tests: { afterRefill: 'comes back' },
  },
  // Sulphide got in on a known day; everything on the body moves together, and a refill lasts for nothing.
  'electrolyte-contaminated': {
    figures: (m) => ({ zero: -4 + from(13, m, 7), sharedShift: m > 13 ? 7 : 0.2, ownShift: 0.3 }),
    events: [
      { kind: 'refilled', at: 12 * MONTH },
      { kind: 'upset', at: 13.1 * MONTH },
    ],
  },
  // Slow, restless, remembers the last standard, and stirring moves it.
  'junction-blocked': {
    figures: (m) => ({
      zero: -4 + from(10, m, 1.2),
      settlingSeconds: 45 + from(9, m, 16),
      hysteresis: 0.4 + from(10, m, 0.7),
      junctionResistance: 1 + from(9, m, 0.9),
    }),
    tests: { stirring: 'moves it' },
  },
  // Slope lost month by month with a quiet zero.
  'glass-aged': { figures: (m) => ({ slope: 0.981 - 0.006 * m, settlingSeconds: 45 + 2.5 * m }) },
  // Slow before the cloth, quick after it.
  'glass-coated': { figures: (m) => ({ cleaning: 6 + (m % 2), settlingSeconds: m > 10 ? 120 : 45 }) },
  // From one visit to the next it says 7 in everything.
  'glass-cracked': { figures: (m) => (m === 17 ? { zero: 1, slope: 0.04, glassResistance: 0.05 } : {}) },
  'dried-out': {
    figures: (m) => (m === 17 ? { zero: 16, slope: 0.9, settlingSeconds: 240, hysteresis: 4 } : {}),
    events: [{ kind: 'left-dry', at: 16.6 * MONTH }],
  },
  bubble: { figures: (m) => (m === 17 ? { zero: 11, noise: 0.9 } : {}), tests: { tapping: 'moves it' } },
  // Better than ideal is the standard's doing; a fresh bottle reads otherwise.
  'bad-standard': {
    figures: (m) => (m === 17 ? { slope: 1.06, standardsDisagree: true } : {}),
    tests: { freshStandard: 'reads otherwise' },
  },
  'temperature-wrong': {
    figures: (m) => (m > 14 ? { temperatureError: 3.1, slope: 0.972 } : { temperatureError: 0.1 }),
  },
  // Humid plug: restless at every visit since, in the beaker as in the tank, with signal lost.
  'connector-wet': {
    figures: (m) => (m > 14 ? { noise: 1.1, processNoise: 1.3, slope: 0.93, glassResistance: 0.1 } : {}),
  },
  // Quiet and right in the beaker, wrong and restless in the tank, and gone with the pump.
  'ground-loop': {
    figures: (m) => (m > 14 ? { processNoise: 1.6, tankAlone: 2.5 } : { tankAlone: 0.2 }),
    tests: { unplugging: 'calms it' },
  },
  'ion-tip-spent': {
    kind: 'ion',
    figures: (m) => ({
      slope: 0.97 - from(5, m, 0.017),
      settlingSeconds: 60 + from(8, m, 9),
      zero: -4 - from(9, m, 1.1),
    }),
  },
  // In standards all is well; in the water it is wrong, steadily.
  'interfering-ion': {
    kind: 'ion',
    figures: (m) => ({ tankAlone: m > 12 ? 3 : 0.2 }),
    tests: { unplugging: 'changes nothing' },
  },
  'cell-fouled': {
    kind: 'conductivity',
    figures: (m) => cell(1 + from(6, m, 0.012), { cleaning: m > 10 ? 0.06 : 0.005 }),
  },
  'cell-not-dry': {
    kind: 'conductivity',
    figures: (m) => cell(1, m === 17 ? { cellFactor: 1.005 } : {}),
    tests: { airZero: 'not zero' },
  },
  'device-reset': {
    figures: (m) => (m === 17 ? { deviceNumbersChanged: true } : {}),
    events: [{ kind: 'power-failure', at: 16.8 * MONTH }],
  },
}

describe('faults as handbooks describe them', () => {
  it.each(Object.entries(CASES) as [Cause, Course][])(
    '%s is named first, and stands well before the next',
    (cause, course) => {
      const { ranked } = judged(course)
      expect(ranked.map((r) => r.cause)[0]).toBe(cause)
      expect(ranked[0]?.probability).toBeGreaterThan(0.5)
      expect(ranked[0]?.probability).toBeGreaterThan(1.5 * (ranked[1]?.probability ?? 1))
      expect(ranked[0]?.remedy).toMatch(/\.$/)
      if (cause !== 'nothing') expect(ranked[0]?.evidenceFor.length).toBeGreaterThan(0)
    },
  )

  it('has a case for every cause, and a kind of sensor in which it can be', () => {
    expect(Object.keys(CASES).toSorted()).toEqual([...CAUSES].toSorted())
    for (const [cause, { kind = 'ph' }] of Object.entries(CASES))
      expect(kindOf(kind).health.causes[cause as Cause]).toBeGreaterThan(0)
  })

  it('is not turned by one wild settling time long ago, nor by a visit that looked at nothing', () => {
    const calm = CASES.nothing.figures
    const wild = judged({ figures: (m) => ({ ...calm(m), ...(m === 6 ? { settlingSeconds: 900 } : {}) }) })
    expect(wild.ranked[0]?.cause).toBe('nothing')
    const blank = Object.fromEntries(Object.keys(SOUND).map((key) => [key, null])) as unknown as HealthVisit
    const empty = judged({ figures: (m) => (m === 17 ? { ...blank, at: 17 * MONTH } : calm(m)) })
    expect(empty.ranked[0]?.cause).toBe('nothing')
  })

  it('tells noise of one visit from noise that stays', () => {
    const noisy = (since: number) => judged({ figures: (m) => (m >= since ? { noise: 1 } : {}) }).ranked
    const share = (ranked: ReturnType<typeof noisy>, cause: Cause) =>
      ranked.find((r) => r.cause === cause)?.probability ?? 0
    expect(share(noisy(15), 'connector-wet')).toBeGreaterThan(2 * share(noisy(17), 'connector-wet'))
    expect(share(noisy(17), 'bubble')).toBeGreaterThan(2 * share(noisy(15), 'bubble'))
  })
})

describe('what came and went', () => {
  it('names a fault that was gone by the next visit, and the day on which it was met', () => {
    const { since, past } = troublesOf(
      recordOf({ figures: (m) => (m === 12 ? { noiseApart: 14, hysteresis: 9, slope: 1.05 } : { slope: 0.98 }) }),
    )
    expect(since).toBeNull()
    expect(past.map((t) => [t.cause, t.from / MONTH, t.until / MONTH])).toEqual([['bubble', 12, 12]])
  })

  it('says since when the likeliest cause is it, and takes no trouble of now for one of before', () => {
    const { since, past } = troublesOf(recordOf(CASES['electrolyte-used-up']))
    // It begins to run after the visit of month 11.
    expect((since ?? 0) / MONTH).toBeGreaterThan(11)
    expect((since ?? 0) / MONTH).toBeLessThan(17)
    expect(past.map((t) => t.cause)).not.toContain('electrolyte-used-up')
  })

  it('finds nothing in the past of a sound sensor, nor of one that was hardly seen', () => {
    expect(troublesOf(recordOf(CASES.nothing))).toEqual({ since: null, past: [] })
    const record = recordOf(CASES['glass-cracked'])
    expect(troublesOf({ ...record, visits: record.visits.slice(0, 1) })).toEqual({ since: null, past: [] })
    expect(troublesOf({ ...record, visits: [] })).toEqual({ since: null, past: [] })
  })
})

/** Figures as no sensor has them, and some missing. */
const anyFigure = fc.option(fc.double({ min: -1e6, max: 1e6, noNaN: true }), { nil: null })
const anyVisits = fc.array(
  fc.record({
    month: fc.integer({ min: 0, max: 17 }),
    figures: fc.record(
      Object.fromEntries(
        Object.keys(SOUND)
          .filter((key) => !['standardsDisagree', 'deviceNumbersChanged', 'againstBefore'].includes(key))
          .map((key) => [key, anyFigure]),
      ) as Record<string, typeof anyFigure>,
    ),
    disagree: fc.option(fc.boolean(), { nil: null }),
    against: fc.option(
      fc.array(
        fc.record({
          code: fc.constantFrom('a', 'b'),
          off: fc.double({ min: -1e4, max: 1e4, noNaN: true }),
          span: fc.integer({ min: -400, max: 400 }),
        }),
        { maxLength: 5 },
      ),
      { nil: null },
    ),
  }),
  { maxLength: 14 },
)

/** Any evidence at all, as odd as it may be together. */
const anyEvidence = fc
  .record(
    Object.fromEntries(
      Object.entries(FEATURES).map(([f, answers]) => [f, fc.option(fc.constantFrom(...answers), { nil: undefined })]),
    ) as Record<Feature, fc.Arbitrary<Answer | undefined>>,
  )
  .map(
    (all) => Object.fromEntries(Object.entries(all).filter(([, answer]) => answer !== undefined)) as DiagnosticEvidence,
  )
const anyTraits = fc.constantFrom(...sensorKinds().map((kind) => kindOf(kind).health))

describe('a diagnosis of any evidence', () => {
  it('comes of any figures without one that is no number', () => {
    fc.assert(
      fc.property(anyTraits, anyVisits, (traits, seen) => {
        const visits = seen
          .toSorted((a, b) => a.month - b.month)
          .map(({ month, figures, disagree, against }) => ({
            ...SOUND,
            ...figures,
            at: month * MONTH,
            standardsDisagree: disagree,
            againstBefore: against,
          }))
        const record = { traits, visits, events: [], installedAt: 0, now: NOW, tests: {} }
        const evidence = evidenceOf(record)
        for (const fit of Object.values(evidence.fits ?? {})) {
          for (const f of fit) expect(f).toBeGreaterThanOrEqual(0)
          expect(Math.max(...fit)).toBe(1)
        }
        const chances = diagnose(traits, evidence).ranked.map((r) => r.probability)
        expect(chances.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 9)
        for (const { probability } of troublesOf(record).past) expect(probability).toBeLessThanOrEqual(1)
      }),
    )
  })

  it('ranks every cause that the kind can have once, by probabilities that add up to one', () => {
    fc.assert(
      fc.property(anyTraits, anyEvidence, (traits, evidence) => {
        const { ranked } = diagnose(traits, evidence)
        const possible = CAUSES.filter((c) => (traits.causes[c] ?? 0) > 0)
        expect(ranked.map((r) => r.cause).toSorted()).toEqual([...possible].toSorted())
        const chances = ranked.map((r) => r.probability)
        expect(chances.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 9)
        expect(chances.toSorted((a, b) => b - a)).toEqual(chances)
        for (const r of ranked) {
          expect(r.evidenceFor.every((a) => a.ratio > 1)).toBe(true)
          expect(r.evidenceAgainst.every((a) => a.ratio < 1)).toBe(true)
        }
      }),
    )
  })

  it('proposes only a test that was not done yet, that tells something, and each of whose outcomes says for whom', () => {
    fc.assert(
      fc.property(anyTraits, anyEvidence, (traits, evidence) => {
        const { next, ranked } = diagnose(traits, evidence)
        if (!next) return
        expect(evidence[next.feature]).toBeUndefined()
        expect(next.bits).toBeGreaterThan(0)
        // No test can tell more than is not known yet (Cover and Thomas, Elements of Information Theory, 2nd ed., th. 2.6.4).
        const open = ranked.reduce((sum, { probability: p }) => sum - (p > 0 ? p * Math.log2(p) : 0), 0)
        expect(next.bits).toBeLessThanOrEqual(Math.min(open, Math.log2(next.outcomes.length)) + 1e-9)
        // A beaker of the tank’s water says nothing of the standards.
        const possible = FEATURES[next.feature].filter((a) => a !== 'only the standards are off')
        expect(next.outcomes.map((o) => o.answer)).toEqual(possible)
        const names = ranked.map((r) => r.name)
        for (const o of next.outcomes) expect(names).toContain(o.favours)
      }),
    )
  })

  it('never believes less in the cause that a test’s outcome favours', () => {
    fc.assert(
      fc.property(anyTraits, anyEvidence, (traits, evidence) => {
        const { next, ranked } = diagnose(traits, evidence)
        if (!next) return
        const before = new Map(ranked.map((r) => [r.name, r.probability]))
        for (const { answer, favours } of next.outcomes) {
          const after = diagnose(traits, { ...evidence, [next.feature]: answer }).ranked
          const gain = after.map((r) => r.probability - (before.get(r.name) ?? 0))
          const favoured = after.findIndex((r) => r.name === favours)
          expect(gain[favoured]).toBeGreaterThanOrEqual(Math.max(...gain) - 1e-9)
        }
      }),
    )
  })
})
