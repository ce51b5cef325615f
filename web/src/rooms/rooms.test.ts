import type { PastView, PlannedTripView, PlanView, ProbeView } from '@frustum/contract'
import { DAY_MS, decisionWords, modelOf } from '@frustum/core'
import { computeSheet, Given, SHEETS, type Sheet } from '@frustum/core/reckoner'
import { beforeEach, describe, expect, it } from 'vitest'
import outbox, { put, sent, type Waiting } from '../store/outbox.ts'
import person, { newId, operatorChosen, themeChosen } from '../store/person.ts'
import { alikeWrong } from './bring/sheetParts.tsx'
import { outText } from './plan/outText.ts'
import { firstTrips, riskOn, riskWord, tripRisk } from './plan/risk.ts'
import { whatItMeans } from './probes/pastWords.ts'
import { OUR_VIEWS, savedViews, saveView } from './probes/savedViews.ts'
import { trendsOf } from './probes/trends.ts'
import { asText } from './reckoner/asText.ts'

/** What the rooms compute and store by themselves, without a browser. */

const TODAY = Date.UTC(2026, 10, 23)

const trip = (id: string, visits: [string, number | null][]): PlannedTripView =>
  ({
    id,
    place: 'Cuttlefish Hall',
    day: TODAY,
    visits: visits.map(([position, outside]) => ({ position, outside })),
  }) as unknown as PlannedTripView

describe('the risk of a trip', () => {
  const plan = {
    today: TODAY,
    daysAhead: 3,
    risks: { A: [0, 0.1, 0.2, 0.4], B: [0.5, 0.5, 0.5, 0.5] },
    trips: [],
  } as unknown as PlanView
  const both = trip('x', [
    ['A', 0.1],
    ['B', null],
  ])

  it('is that of at least one being out, by the product of the chances of being in, and names the worst', () => {
    // By hand: 1 - 0.8 x 0.5 = 0.6.
    expect(riskOn(plan, both, TODAY + 2 * DAY_MS)).toEqual({ any: 0.6, worst: 'B', outside: 0.5 })
    expect(riskOn(plan, trip('y', [['A', 0]]), TODAY)).toEqual({ any: 0, worst: '', outside: 0 })
  })

  it('stays at the ends of what is forecast, and counts a sensor nobody forecasts as safe', () => {
    expect(riskOn(plan, both, TODAY - 9 * DAY_MS).any).toBeCloseTo(0.5, 12)
    expect(riskOn(plan, both, TODAY + 99 * DAY_MS).any).toBeCloseTo(0.7, 12)
    expect(riskOn(plan, trip('z', [['gone', null]]), TODAY).any).toBe(0)
  })

  it('has a word and a figure for each degree', () => {
    expect([0, 0.05, 0.051, 0.49, 0.5, 1].map(riskWord)).toEqual(['low', 'low', 'raised', 'raised', 'high', 'high'])
    expect(outText(null)).toBe('later')
    expect(outText(0.123)).toBe('12\u00a0% out')
    expect([outText(1), outText(0)]).toEqual(['> 99\u00a0% out', '< 1\u00a0% out'])
    expect(tripRisk(both)).toBe(0.1)
    expect(tripRisk(trip('later', [['A', null]]))).toBeNull()
  })

  it('lies in the trips on which a sensor is seen for the first time', () => {
    const trips = [
      trip('1', [['A', 0]]),
      trip('2', [['A', null]]),
      trip('3', [
        ['A', null],
        ['B', 0],
      ]),
    ]
    expect([...firstTrips({ ...plan, trips })]).toEqual(['1', '3'])
  })
})

/** A browser's storage; one that refuses, as in a private window, throws. */
function storage(refuses = false) {
  const kept = new Map<string, string>()
  const guard = <T>(value: T): T => {
    if (refuses) throw new Error('Storage is off')
    return value
  }
  Object.defineProperty(globalThis, 'localStorage', {
    configurable: true,
    value: {
      getItem: (key: string) => guard(kept.get(key) ?? null),
      setItem: (key: string, value: string) => guard(kept.set(key, value)),
    },
  })
  return kept
}

describe('views of the fleet', () => {
  const look = { name: 'Old glass', filter: 'glass', sorting: [{ id: 'end', desc: false }] }

  it('are kept by name, the newest of a name in place of the older', () => {
    storage()
    expect(savedViews()).toEqual([])
    saveView(look)
    saveView({ ...look, name: 'Wasabi' })
    expect(saveView({ ...look, filter: 'pH' }).map((v) => [v.name, v.filter])).toEqual([
      ['Wasabi', 'glass'],
      ['Old glass', 'pH'],
    ])
    expect(savedViews()).toHaveLength(2)
    expect(OUR_VIEWS.map((v) => v.name)).toContain('Which dies first')
  })

  it('survive a storage that is off, and one that holds something else', () => {
    storage(true)
    expect(savedViews()).toEqual([])
    expect(saveView(look)).toEqual([look])
    for (const odd of ['{', '"x"', '{"a":1}', 'null']) {
      storage().set('frustum-fleet-views', odd)
      expect(savedViews()).toEqual([])
    }
  })
})

describe('what a browser keeps', () => {
  beforeEach(() => {
    storage()
  })
  const waiting = (actionId: string) => ({ actionId, id: 'v', action: 'done' }) as unknown as Waiting

  it('holds actions in the order in which they were done, until each was sent', () => {
    let state = outbox(undefined, { type: 'start' })
    for (const id of ['a', 'b', 'c']) state = outbox(state, put(waiting(id)))
    state = outbox(state, sent('b'))
    state = outbox(state, sent('nobody'))
    expect(state.waiting.map((w) => w.actionId)).toEqual(['a', 'c'])
  })

  it('has a person with an id of their own, whom nothing but a choice changes', () => {
    const fresh = person(undefined, { type: 'start' })
    expect(fresh).toMatchObject({ operator: null, theme: 'system', chime: true })
    const chosen = person(person(fresh, operatorChosen('S. Osk')), themeChosen('lamp'))
    expect(chosen).toEqual({ ...fresh, operator: 'S. Osk', theme: 'lamp' })
  })

  it('makes ids of the form of RFC 9562, version 4, with and without a secure context', () => {
    const form = /^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/
    expect(newId()).toMatch(form)
    const own = crypto.randomUUID
    try {
      Object.defineProperty(crypto, 'randomUUID', { configurable: true, value: undefined })
      const ids = Array.from({ length: 50 }, newId)
      for (const id of ids) expect(id).toMatch(form)
      expect(new Set(ids).size).toBe(50)
    } finally {
      Object.defineProperty(crypto, 'randomUUID', { configurable: true, value: own })
    }
  })
})

describe('the trends of a probe', () => {
  const probe = (kind: 'ph' | 'ion', characteristics: Record<string, number>[]): ProbeView =>
    ({
      kind,
      parameters: modelOf(kind).parameters,
      calibrations: characteristics.map((characteristic, i) => ({
        at: TODAY + i * DAY_MS,
        characteristic,
        uncertainty: { zero: 1.2 },
      })),
    }) as unknown as ProbeView

  it('are in the units of the screen, with what is sound and where the limits are', () => {
    const [zero, slope] = trendsOf(
      probe('ph', [
        { zero: -2, slopeEfficiency: 0.99 },
        { zero: -4, slopeEfficiency: 0.97 },
      ]),
    ).toSorted((a, b) => b.title.localeCompare(a.title))
    expect(zero).toMatchObject({ title: 'Zero at pH 7', unit: 'mV', points: [{ value: -2, bar: 1.2 }, { value: -4 }] })
    expect(slope?.unit).toBe('% of ideal')
    expect(slope?.points.map((p) => p.value)).toEqual([99, 97])
    expect(slope?.limits.map((l) => l.word)).toEqual(['order one', 'replace'])
    expect(slope?.sound[0]).toBeLessThan(slope?.sound[1] ?? 0)
  })

  it('are left out where nothing ever moved, or where one point is no trend', () => {
    const still = { zero: -2, slopeEfficiency: 0.99 }
    expect(trendsOf(probe('ph', [still, still]))).toEqual([])
    expect(trendsOf(probe('ph', [still]))).toEqual([])
    expect(trendsOf(probe('ph', []))).toEqual([])
  })
})

describe('what an error found means for the readings before it', () => {
  const scales = { errorScale: { unit: 'pH', decimals: 2, factor: 1 }, figure: { policy: { tolerance: 0.1 } } }
  const past = (found: number, out: PastView['out'], days = 9, affected = 18) =>
    whatItMeans(
      { from: TODAY - 60 * DAY_MS, to: TODAY, found, out, days, affected } as unknown as PastView,
      scales,
      'Europe/London',
    )
  const year = new Date().getFullYear() === 2026 ? '' : ' 2026'

  it('is nothing within the limit, and else from when on it was beyond it', () => {
    expect(past(-0.04, [])).toBe('Found \u22120.04 pH off, within its limit: the readings stand as they are.')
    expect(past(0.31, [{ from: TODAY - 9 * DAY_MS, to: TODAY, largest: 0.31 }])).toBe(
      `Found +0.31 pH off. Under a straight growth it left its limit of 0.10 about 14 Nov${year}: 9 days and 18 logged readings are touched.`,
    )
  })

  it('tells of what went and came back in between, though it is right again', () => {
    const between = { from: TODAY - 20 * DAY_MS, to: TODAY - 19 * DAY_MS, largest: 0.52 }
    expect(past(0.02, [between], 1, 1)).toBe(
      `Found +0.02 pH off. In between it was beyond its limit of 0.10: from 3 Nov${year} to 4 Nov${year} by up to +0.52 pH; 1 day and 1 logged reading are touched.`,
    )
  })
})

it('a check goes on to a calibration, anything else is adjusted', () => {
  expect(decisionWords('adjust', true)).toBe('Go on and calibrate')
  expect(decisionWords('adjust', false)).toBe('Adjust')
})

it.each(SHEETS.map((s) => [s.id, s] as const))(
  'sheet %s can be taken along as text: what went in, what came out, from where',
  (_, sheet: Sheet) => {
    const given = Object.fromEntries(sheet.given.map((f) => [f.id, f.initial]))
    const result = computeSheet(sheet, given, sheet.start ? { id: sheet.start.held, value: sheet.start.value } : null)
    const entries = {
      given: Object.fromEntries(Object.entries(given).map(([id, v]) => [id, String(v)])),
      held: sheet.start?.held ?? null,
      heldText: String(sheet.start?.value ?? ''),
    }
    const text = asText(sheet, entries, result, new Given(given))
    expect(text.startsWith(`${sheet.title}\n`)).toBe(true)
    expect(text).toContain(`Source: ${sheet.source}`)
    expect(text.match(/\(held\)/g)?.length ?? 0).toBe(sheet.start ? 1 : 0)
    for (const { field } of [...result.linked, ...result.outputs]) expect(text).toContain(`${field.label}: `)
    expect(text).not.toMatch(/NaN|undefined|\[object/)
  },
)

it('rows of a list that are wrong alike are one line', () => {
  const row = (number: number, wrong: Record<string, string>, code = 'T1') =>
    ({ number, code, state: 'wrong', what: '', wrong }) as const
  const rows = [
    row(2, { code: 'Which sensor?' }),
    row(3, { code: 'Which sensor?' }, 'T2'),
    row(4, { date: 'There is no date.' }),
    row(5, { code: 'Which sensor?' }),
    { ...row(6, {}), state: 'new' as const },
  ]
  expect(alikeWrong(rows, { code: { label: 'Code' }, date: { label: 'Date' } })).toEqual([
    { words: 'Code: Which sensor?', codes: '', numbers: '2 to 3, 5' },
    { words: 'Date: There is no date.', codes: 'T1', numbers: '4' },
  ])
})
