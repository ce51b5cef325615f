import { expect, it } from 'vitest'
import { testSetup } from '../../../lab/src/fixtures/testSetup.ts'
import { modelOf } from '../kinds/index.ts'
import { PH_TWO_POINT } from '../kinds/ph/procedures.ts'
import type { Refusal } from './refusal.ts'
import { VisitRefusal } from './refusal.ts'
import { VisitRun, type VisitSnapshot } from './visitRun.ts'

const START = Date.UTC(2026, 5, 1, 12)
const STANDARDS = { first: { code: 'pH7.00', lot: null }, second: { code: 'pH10.01', lot: null } }

/** A two-point visit by eye, and the hands in it: each action takes half a minute. */
function visit(change: Parameters<typeof testSetup>[2] = {}) {
  const by = { linked: false, shows: 'value' as const, standards: STANDARDS, processTemperature: 25, ...change }
  const run = new VisitRun(
    { procedure: PH_TWO_POINT, setup: testSetup(PH_TWO_POINT, 'ph', by), startedAt: START },
    {},
    START,
  )
  let now = START
  const later = () => (now += 30_000)
  const hands = {
    run,
    step: () => run.progress.current?.key ?? '',
    later,
    read: (value: string) => {
      run.type(hands.step(), { value, temperature: '25.0', still: true }, later())
      return run.capture(hands.step(), now, { earlyReason: 'Testing' })
    },
    /** Ticks and reads on to a step, each buffer as a sensor with an offset of 0.05 pH shows it. */
    to: (step: string) => {
      for (let n = 0; hands.step() !== step; n++) {
        const { current } = run.progress
        if (!current || n > 20) throw new Error(`No way to ${step}`)
        const { kind, role, key } = current
        if (kind === 'capture') hands.read(role === 'second' ? '10.06' : role === 'first' ? '7.05' : '8.05')
        else if (kind === 'verdict')
          run.act({ type: 'decide', step: key, decision: 'adjust', note: 'Testing' }, later())
        else run.act({ type: 'done', step: key }, later())
      }
      return hands
    },
  }
  return hands
}

/** What is refused, and that nothing is recorded then. */
function refusal(run: VisitRun, act: () => unknown): Refusal {
  const before = run.lines.length
  try {
    act()
  } catch (error) {
    expect(run.lines).toHaveLength(before)
    if (error instanceof VisitRefusal) return error.refusal
    throw error
  }
  throw new Error('It was accepted')
}

it('a reading is typed, captured and judged, and the numbers keyed in follow from the buffers', () => {
  const { run, to, later } = visit()
  to('result')
  run.act({ type: 'decide', step: 'result', decision: 'adjust', note: 'Testing' }, later())
  const model = modelOf('ph')
  const given = run.toApply
  // With what it is given the device shows both buffers right, by the last digit of a display.
  for (const [shown, right] of [
    [7.05, 7],
    [10.06, 10.01],
  ] as const) {
    const signal = model.fromShown(shown, 25, model.ideal, {})
    expect(model.toShown(signal, 25, { ...model.ideal, ...given }, {})).toBeCloseTo(right, 2)
  }
  expect(refusal(run, () => run.keyIn('8.5', later()))).toMatchObject({ because: 'state', code: 'shows-otherwise' })
  expect(refusal(run, () => run.keyIn('none', later()))).toMatchObject({
    because: 'input',
    fields: { shownAfter: expect.any(String) },
  })
  run.keyIn('8.5', later(), 'It was taken out')
  expect(run.progress.evidence.applied).toMatchObject({
    way: 'keyed',
    shownAfter: { value: 8.5, reason: 'It was taken out' },
  })
})

it('only the open step accepts anything, and nothing is recorded of what is refused', () => {
  const { run, step, later, to } = visit()
  expect(refusal(run, () => run.act({ type: 'done', step: 'result' }, later())).code).toBe('stale-step')
  expect(refusal(run, () => run.type('point-1', { value: '7.05' }, later())).code).toBe('stale-step')
  expect(refusal(run, () => run.act({ type: 'redo', step: 'nothing', reason: 'Testing' }, later())).code).toBe(
    'stale-step',
  )
  to('found-process')
  expect(refusal(run, () => run.capture(step(), later())).code).toBe('no-reading')
  expect(refusal(run, () => run.act({ type: 'done', step: step() }, later())).code).toBe('stale-step')
  const typed = (value: string, temperature: string) =>
    refusal(run, () => run.type(step(), { value, temperature }, later()))
  expect(typed('wet', '25')).toMatchObject({ because: 'input', code: 'invalid' })
  expect(typed('8.05', '77')).toMatchObject({
    because: 'input',
    code: 'fahrenheit',
    fields: { temperature: expect.any(String) },
  })
  expect(typed('8.05', 'warm')).toMatchObject({ because: 'input', fields: { temperature: expect.any(String) } })
})

it('who decides otherwise than proposed says why, and only among what is offered', () => {
  const { run, to, later } = visit()
  to('result')
  const proposed = run.view.result?.proposal.decision
  const other = run.view.result?.choices.find((c) => c !== proposed)
  if (!other) throw new Error('There is nothing else to decide')
  expect(
    refusal(run, () => run.act({ type: 'decide', step: 'result', decision: other, note: 'x' }, later())),
  ).toMatchObject({
    because: 'input',
    code: 'note-needed',
    fields: { note: expect.any(String) },
  })
  expect(refusal(run, () => run.act({ type: 'decide', step: 'result', decision: 'condition' }, later())).code).toBe(
    'no-result',
  )
})

it('a visit goes on from its snapshot as if it had never stopped', () => {
  const { run, to, later } = visit()
  to('point-2')
  const snapshot: VisitSnapshot = {
    procedure: PH_TWO_POINT.id,
    setup: testSetup(PH_TWO_POINT, 'ph', {
      linked: false,
      shows: 'value',
      standards: STANDARDS,
      processTemperature: 25,
    }),
    startedAt: START,
    lines: run.lines,
    past: [],
    thermometers: [],
  }
  const now = later()
  const other = VisitRun.from(JSON.parse(JSON.stringify(snapshot)), now)
  for (const one of [run, other]) {
    one.type('point-2', { value: '10.06', temperature: '25.0', still: true }, now + 1000)
    one.capture('point-2', now + 2000, { earlyReason: 'Testing' })
  }
  expect(JSON.stringify(other.lines)).toBe(JSON.stringify(run.lines))
  expect(JSON.stringify(other.liveAt(now + 3000))).toBe(JSON.stringify(run.liveAt(now + 3000)))
  expect(JSON.stringify(other.view)).toBe(JSON.stringify(run.view))
})

it('over a connection a capture waits for rest, and says what is missing', () => {
  const { run, to, later } = visit({ linked: true, shows: 'signal' })
  to('found-process')
  const now = later()
  run.read({ at: now, signal: -70, shown: null, temperature: 25 }, now)
  expect(refusal(run, () => run.capture('found-process', now, { stale: true, earlyReason: 'Testing' })).code).toBe(
    'blind',
  )
  run.capture('found-process', now, { earlyReason: 'In a hurry' })
  expect(run.progress.evidence.readings['found-process']).toMatchObject({
    signal: -70,
    earlyReason: 'In a hurry',
    source: 'line-signal',
  })
})
