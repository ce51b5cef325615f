import type { RoundsRow, VisitLive } from '@frustum/contract'
import {
  celsius,
  DAY_MS,
  forecastCone,
  forecastDrift,
  inPercent,
  millivolts,
  nextDate,
  probabilityInTolerance,
  type StabilityOpinion,
  say,
  USUAL_READER,
} from '@frustum/core'
import { describe, expect, it } from 'vitest'
import { liveAt } from '../../../lab/src/fixtures/visitViews.ts'
import { opinionWords } from '../rooms/bench/opinionWords.ts'
import { inRuns } from '../rooms/readings/runs.ts'
import { headline, needsHands, whySentence } from '../rooms/rounds/sentences.ts'
import { evenTicks, stepDecimals } from './axis.ts'
import {
  celsius as celsiusText,
  clock,
  day,
  duration,
  fixed,
  followReader,
  plural,
  scaledText,
  signed,
  text,
  weekStart,
} from './format.ts'
import { standardLabel } from './standardLabel.ts'

describe('how numbers and dates are written', () => {
  it('has a real minus, a plus where it matters, and never minus zero', () => {
    expect(fixed(-4.25, 1)).toBe('\u22124.3')
    expect(fixed(-0.001, 2)).toBe('0.00')
    expect(signed(0.126, 2)).toBe('+0.13')
    expect(signed(-0.001, 2)).toBe('0.00')
    expect(text(say`The zero is ${millivolts(-18.4)}, ${inPercent(0.95, 0)} sure`)).toBe(
      'The zero is \u221218.4\u00a0mV, 95\u00a0% sure',
    )
    expect(fixed(348_700, 0)).toBe('348,700')
  })

  it('follows the one who reads: units, decimal mark, clock, first day of the week', () => {
    const at = Date.UTC(2026, 10, 23, 16, 5)
    const written = () => [
      text(say`It is ${celsius(21.25)}`),
      celsiusText(25),
      fixed(1234.5, 1),
      scaledText(1.83, { unit: 'mS/cm', decimals: 2, factor: 1 }),
      scaledText(35, { unit: 'S', decimals: 1, factor: 1 }),
      clock(at, 'Europe/London'),
      weekStart(),
    ]
    const usual = written()
    expect(usual).toEqual(['It is 21.3\u00a0°C', '25.0\u00a0°C', '1,234.5', '1.83 mS/cm', '35.0 PSU', '16:05', 1])
    followReader({
      temperature: '°F',
      conductivity: 'CF',
      salinity: 'SG',
      decimals: 'comma',
      clock: '12',
      weekStart: '0',
    })
    const theirs = ['It is 70,3\u00a0°F', '77,0\u00a0°F', '1\u202f234,5', '18,3 CF', '1,0264 SG', '4:05 pm', 0]
    expect(written()).toEqual(theirs)
    followReader(USUAL_READER)
    expect(written()).toEqual(usual)
  })

  it('names the year only when it is another one, in the time zone of the site', () => {
    const now = Date.UTC(2026, 10, 23)
    expect(day(Date.UTC(2026, 8, 8), 'Europe/London', now)).toBe('8 Sep')
    expect(day(Date.UTC(2027, 0, 4), 'Europe/London', now)).toBe('4 Jan 2027')
    expect(day(Date.UTC(2026, 5, 1, 23, 30), 'Europe/London', now)).toBe('2 Jun')
    expect(plural(1, 'day')).toBe('1 day')
    expect(standardLabel('pH10.01')).toBe('pH 10.01')
    expect([12, 60, 125, 1440 * 2 + 180].map(duration)).toEqual(['12 min', '1 h 00', '2 h 05', '2 d 3 h'])
  })

  it('ticks stand at round values within the axis', () => {
    expect(evenTicks([-193.2, -185.8])).toEqual([-192, -190, -188, -186])
    expect(stepDecimals([-193.2, -185.8])).toBe(0)
    expect(evenTicks([7.012, 7.058]).map((t) => t.toFixed(2))).toEqual(['7.02', '7.03', '7.04', '7.05'])
    expect(stepDecimals([7.012, 7.058])).toBe(2)
  })
})

const policy = { tolerance: 0.1, reliability: 0.95, floorDays: 7, ceilingDays: 90, unit: 'pH', decimals: 2 }
const now = Date.UTC(2026, 10, 23, 12)
function row(lastVisitDaysAgo: number, driftState: RoundsRow['driftState'], growth = 0.06): RoundsRow {
  const observations = Array.from({ length: 8 }, (_, i) => ({
    at: now - (lastVisitDaysAgo + 30 * (7 - i)) * DAY_MS,
    asFound: i === 0 ? null : growth,
    asLeft: 0,
    uncertainty: 0.02,
    adjusted: true,
  }))
  const forecast = forecastDrift(observations)
  const next = nextDate(forecast, policy)
  return {
    position: 'CH-pH-9',
    place: 'Cuttlefish Hall',
    spot: 'loop A',
    kind: 'ph',
    quantity: 'pH',
    scale: { unit: 'pH', decimals: 2, factor: 1 },
    state: driftState,
    driftState,
    reason: next.reason,
    alarm: null,
    differs: null,
    lead: null,
    figure: {
      cone: forecastCone(forecast, policy.tolerance, Math.max(next.at, now), 14),
      from: forecast.from,
      outside: 1 - probabilityInTolerance(forecast, lastVisitDaysAgo, policy.tolerance),
      policy,
      next,
      dots: [],
      startsAt: forecast.from,
    },
    outSince: driftState === 'out' ? forecast.from + 61 * DAY_MS : null,
    risk: 0,
    consequence: 2,
    linked: true,
    verb: 'Calibrate',
    openVisit: null,
    live: { position: 'CH-pH-9', at: null, shown: null, signal: null, temperature: null, blindSince: null, why: null },
    typed: null,
  }
}

describe('Rounds in words', () => {
  it('says why, by the state', () => {
    expect(whySentence(row(80, 'out'), 'UTC', now)).toMatch(
      /^Out of tolerance since about \d+ \w+ \((> 99|\d+)\s% sure\)\. It drifts 0\.06\spH a month upwards\./,
    )
    expect(whySentence(row(2, 'drifting'), 'UTC', now)).toMatch(/^Next check \d+ \w+( \d+)?\. It drifts/)
    expect(whySentence(row(50, 'overdue'), 'UTC', now)).toMatch(/^Now \(was due \d+ \w+\)\. /)
    const due = row(0, 'due')
    expect(whySentence(due, 'UTC', due.figure.next.at - 1000)).toMatch(/^Due today\./)
    expect(whySentence(due, 'UTC', due.figure.next.at - 2 * DAY_MS)).toMatch(/^Due in 2 days\./)
  })

  it('counts what needs hands', () => {
    expect(headline([row(2, 'holding')])).toBe('Nothing to do within three days')
    expect(headline([row(2, 'holding'), row(80, 'out'), row(50, 'overdue')])).toBe('Two to do within three days')
    const visit = { id: 'x', operator: 'S. Osk', since: now, step: 'Result of the sample' }
    expect(needsHands({ ...row(2, 'holding'), openVisit: { ...visit, pending: false } })).toBe(true)
    // A sample whose result is awaited needs no hands.
    expect(needsHands({ ...row(2, 'holding'), openVisit: { ...visit, pending: true } })).toBe(false)
  })
})

describe('the judge in words', () => {
  const live = (change: Partial<VisitLive>, opinion: Partial<StabilityOpinion> = {}): VisitLive => ({
    ...liveAt('point-1', { at: now, opinion }),
    ...change,
  })

  it.each([
    [live({}), 'settling', /About 43 s, then it is sure to 0\.03\spH/],
    [live({}, { secondsToGo: 12 }), 'nearly there', /About 12 s/],
    [live({}, { secondsToGo: null }), 'settling', /Not sure yet/],
    [live({}, { state: 'stable', reason: 'known' }), 'stable', /Known to 0\.03\spH/],
    [live({}, { state: 'disturbed', reason: 'jump' }), 'disturbed', /bubble/],
    [live({}, { state: 'disturbed', reason: 'noise' }), 'noisy', /cable/],
    [live({}, { state: 'unsettled', reason: 'time-limit' }), 'not settling', /with a reason/],
    [live({}, { reason: 'temperature-moving' }), 'warming or cooling', /temperature does not yet/],
    [live({ blindSince: 10_000 }), 'blind', /No answer for 5 s/],
    [live({ arrived: false }), 'no change', /Is the sensor in the cup/],
    [live({ opinion: null }), 'no reading yet', /^$/],
  ])('says it in a word and a sentence: %#', (message, word, detail) => {
    expect(opinionWords(message, 15_000)).toMatchObject({ word, detail: expect.stringMatching(detail) })
  })
})

it('a finding that only warns stands before the judge\u2019s own word, one that stops takes its place', () => {
  const finding = {
    code: 'wrong-temperature-input',
    severity: 'warn',
    sentence: 'It says 30.6 °C.',
    advice: 'Hold a thermometer beside it.',
    numbers: {},
  } as const
  const live = liveAt('point-1', { finding, opinion: { state: 'stable', reason: 'known', confidence: 97 } })
  expect(opinionWords(live)).toMatchObject({ word: 'temperature?', also: 'stable', tone: 'near' })
  const stop = { ...live, finding: { ...finding, severity: 'stop' as const } }
  expect(opinionWords(stop)).toMatchObject({ word: 'temperature?', tone: 'alarm' })
  expect(opinionWords(stop).also).toBeUndefined()
})

describe('lines of readings', () => {
  const at = (...times: number[]) => times.map((t) => ({ at: t }))
  const lengths = (points: { at: number }[], least = 1) => inRuns(points, least).map((run) => run.length)
  const each = (from: number, step: number, count: number) => Array.from({ length: count }, (_, i) => from + i * step)

  it('end where nothing was read, and not where it is read seldom', () => {
    expect(lengths([])).toEqual([])
    expect(lengths(at(5))).toEqual([1])
    expect(lengths(at(...each(0, 1, 20), ...each(60, 1, 20)))).toEqual([20, 20])
    // Twice a day by eye, then each minute by line: one line, and no gap in either.
    expect(lengths(at(...each(0, 720, 20), ...each(20 * 720, 1, 50)))).toEqual([70])
    expect(lengths(at(...each(0, 720, 10), ...each(20 * 720, 720, 10)))).toEqual([10, 10])
    // Bins are wider than what is between two of them.
    expect(lengths(at(0, 3, 4, 6), 2)).toEqual([4])
  })
})
