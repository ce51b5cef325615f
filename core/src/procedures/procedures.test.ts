import { describe, expect, it } from 'vitest'
import { plain } from '../../../lab/src/fixtures/plain.ts'
import { testSetup } from '../../../lab/src/fixtures/testSetup.ts'
import { kindOf, procedureOf, proceduresFor, sensorKinds } from '../kinds/index.ts'
import type { CapturedReading } from '../measurement/capturedReading.ts'
import type { SensorKind } from '../measurement/sensorKind.ts'
import { HAZARDS } from '../standards/hazards.ts'
import { arithmeticOf } from '../visits/arithmetic.ts'
import { reduceVisit, type VisitEntry } from '../visits/visitReducer.ts'
import { mayBeRepeated } from '../visits/visitView.ts'
import type { Setup } from './setup.ts'
import type { Step } from './step.ts'
import { USUAL_PRACTICES, WORKING_PRACTICES, type WorkingPractices } from './workingPractices.ts'

const setup = (kind: SensorKind, id: string, change: Partial<Setup> = {}) => testSetup(procedureOf(id), kind, change)

const reading = (signal: number, code?: string, value?: number): CapturedReading => ({
  signal,
  source: 'line',
  signalUncertainty: 1,
  temperature: 22,
  shown: 7,
  stability: { state: 'stable', reason: 'known', seconds: 60, confidence: 97 },
  trace: [],
  signature: null,
  ...(code && value !== undefined
    ? { standard: { code, value, lot: null, expired: false, openTooLong: false, daysOver: 0 } }
    : {}),
})
const done = (step: string): VisitEntry => ({ type: 'done', step })
const captured = (step: string, signal = 0, code?: string, value?: number): VisitEntry => ({
  type: 'captured',
  step,
  reading: reading(signal, code, value),
})
const fold = (id: string, entries: VisitEntry[], change: Partial<Setup> = {}) => {
  const procedure = procedureOf(id)
  const kind = sensorKinds().find((k) => kindOf(k).procedures.includes(procedure)) as SensorKind
  return reduceVisit(
    procedure,
    setup(kind, id, change),
    0,
    entries.map((entry, i) => ({ at: i, entry })),
  )
}

describe.each(sensorKinds().flatMap((kind) => kindOf(kind).procedures.map((p) => ({ id: p.id, kind }))))(
  '$id on $kind',
  ({ id, kind }) => {
    const { steps } = reduceVisit(procedureOf(id), setup(kind, id), 0, [])
    const list = steps.map((s) => s.step)

    it('has arithmetic that can be read at every step', () => {
      const { evidence } = reduceVisit(procedureOf(id), setup(kind, id), 0, [])
      const live = { signal: 1, shown: 7, temperature: 22, noise: 0.1, uncertainty: 1, known: true }
      for (const step of list) {
        const lines = arithmeticOf(procedureOf(id), evidence, step, live)
        const text = lines.flatMap(({ title, value, note }) => [title, value, note].map(plain)).join(' ')
        expect(text).not.toMatch(/object|undefined|NaN/)
        if (step.medium === 'standard' && kind === 'ph') expect(text).toMatch(/at 22\.0.°C; the label holds at 25.°C/)
      }
    })

    it('is a ladder that can be climbed: each key once, each step resting on earlier ones only', () => {
      const keys = list.map((s) => s.key)
      expect(new Set(keys).size).toBe(keys.length)
      list.forEach((step, i) => {
        for (const before of step.after) {
          const at = keys.indexOf(before)
          // A step that is left out in this course rests on nothing.
          if (at >= 0) expect([step.key, before, at < i]).toEqual([step.key, before, true])
        }
      })
    })

    it('has words for each step, and what its kind needs', () => {
      for (const step of list) {
        expect(step.title.length, step.key).toBeGreaterThan(8)
        expect(step.short.length, step.key).toBeLessThan(75)
        if (['confirm', 'wait', 'capture', 'form', 'apply'].includes(step.kind)) expect(step.main).not.toBe('')
        if (step.kind === 'capture') expect(step.medium).toBeDefined()
        if (step.medium === 'standard') expect(step.role).toBeDefined()
        if (step.kind === 'form') expect(step.fields?.length).toBeGreaterThan(0)
        if (step.kind === 'wait') expect(step.minutes).toBeGreaterThan(0)
        for (const hazard of step.hazards ?? []) expect(HAZARDS[hazard]).toBeDefined()
      }
    })

    it('takes the sensor out of the water only after the hold, and ends with its release', () => {
      const leaves = list.findIndex((s) => s.kind === 'capture' && s.medium !== 'process')
      const hold = list.findIndex((s) => s.key === 'hold')
      if (leaves >= 0) {
        expect(hold).toBeGreaterThanOrEqual(0)
        expect(hold).toBeLessThan(leaves)
        expect(list.at(-1)?.key).toBe('release')
      }
    })
  },
)

describe('the record played from the start', () => {
  const UP_TO_RESULT = [
    done('hold'),
    captured('found-process', -70),
    captured('found-standard', 2, 'pH7.00', 7.012),
    done('clean'),
    captured('point-1', 2, 'pH7.00', 7.012),
    done('rinse-2'),
    captured('point-2', -172, 'pH10.01', 10.036),
  ]
  const decided = (decision: 'adjust' | 'leave-alone' | 'repeat' | 'clean-and-recheck' | 'condition'): VisitEntry => ({
    type: 'decided',
    step: 'result',
    decision,
    proposed: decision,
    note: null,
  })

  it('opens one step after the other', () => {
    const keys = fold('ph-two-point', []).steps.map((s) => s.step.key)
    UP_TO_RESULT.forEach((_, n) => {
      expect(fold('ph-two-point', UP_TO_RESULT.slice(0, n)).current?.key).toBe(keys[n])
    })
  })

  it('drops apply and verify when nothing is adjusted', () => {
    expect(fold('ph-two-point', [...UP_TO_RESULT, decided('leave-alone')]).current?.key).toBe('back')
    expect(fold('ph-two-point', [...UP_TO_RESULT, decided('adjust')]).current?.key).toBe('apply')
  })

  it('opens again what rests on a step that is taken again, keeps the rest, and counts the attempts', () => {
    const again = [...UP_TO_RESULT, decided('adjust'), { type: 'redo', step: 'point-1', reason: 'Wrong cup' } as const]
    const progress = fold('ph-two-point', again)
    expect(progress.current?.key).toBe('point-1')
    expect(progress.evidence.decisions).toEqual({})
    expect(progress.evidence.readings['point-2']?.signal).toBe(-172)
    expect(progress.evidence.readings['point-1']).toBeUndefined()
    const more = fold('ph-two-point', [...again, captured('point-1', 3, 'pH7.00', 7.012)])
    expect(more.current?.key).toBe('result')
    expect(more.evidence.attempts['point-1']).toBe(2)
  })

  it('a point that is read once more counts as a mean, until it is taken again', () => {
    const more = { type: 'redo', step: 'point-1', reason: 'x', keeps: true } as const
    const open = fold('ph-two-point', [...UP_TO_RESULT, more])
    expect(plain(open.current?.title ?? '')).toBe('Into pH 7.00, once more')
    const twice = [...UP_TO_RESULT, more, captured('point-1', 3, 'pH7.00', 7.012)]
    const { evidence } = fold('ph-two-point', twice)
    expect(evidence.readings['point-1']?.signal).toBe(2.5)
    expect(evidence.counting['point-1']?.map((r) => r.signal)).toEqual([2, 3])
    const { findings } = procedureOf('ph-two-point').judge(evidence, 'result') ?? { findings: [] }
    expect(findings.map((f) => plain(f.sentence))).toContain('pH 7.00 was read 2 times: scatter 0.71 mV.')
    const again = [...twice, { type: 'redo', step: 'point-1', reason: 'x' } as const]
    expect(
      fold('ph-two-point', [...again, captured('point-1', 9, 'pH7.00', 7.012)]).evidence.readings['point-1'],
    ).toMatchObject({ signal: 9 })
  })

  it('a point may be read once more until something rests on it, and what was found until it is cleaned', () => {
    const repeatable = (lines: VisitEntry[]) => {
      const progress = fold('ph-two-point', lines)
      return progress.steps.filter((s) => mayBeRepeated(progress, s)).map((s) => s.step.key)
    }
    expect(repeatable(UP_TO_RESULT.slice(0, 3))).toEqual(['found-standard'])
    expect(repeatable(UP_TO_RESULT)).toEqual(['point-1', 'point-2'])
    expect(repeatable([...UP_TO_RESULT, decided('adjust')])).toEqual([])
  })

  it('a cleaning taken again takes its points with it', () => {
    const { evidence, current } = fold('ph-two-point', [...UP_TO_RESULT, { type: 'redo', step: 'clean', reason: 'x' }])
    expect(current?.key).toBe('clean')
    expect(Object.keys(evidence.readings).sort()).toEqual(['found-process', 'found-standard'])
  })

  it('decisions that mean more work open the step where it begins', () => {
    expect(fold('ph-two-point', [...UP_TO_RESULT, decided('repeat')]).current?.key).toBe('point-1')
    expect(fold('ph-two-point', [...UP_TO_RESULT, decided('clean-and-recheck')]).current?.key).toBe('clean')
    const soaking = fold('ph-two-point', [...UP_TO_RESULT, decided('condition')])
    expect(soaking.current).toMatchObject({ key: 'soak', kind: 'wait', minutes: 60 })
  })

  it('keeps the reason of a skipped step, typed readings of the step at hand, and when a wait began', () => {
    const progress = fold('conductivity-dry-zero', [
      { type: 'skipped', step: 'hold', reason: 'Held already' },
      { type: 'typed', step: 'found-process', value: 8, temperature: 20 },
    ])
    expect(progress.steps[0]).toMatchObject({ status: 'skipped', reason: 'Held already' })
    expect(progress.typed.map((t) => t.value)).toEqual([8])
    const waiting = fold('conductivity-dry-zero', [
      done('hold'),
      captured('found-process'),
      captured('found-standard'),
      done('clean'),
      { type: 'waiting', step: 'dry', minutes: 90, shared: false },
    ])
    expect(waiting.waiting).toEqual({ since: 4, minutes: 90 })
  })

  it('a check goes on to the whole calibration with what it has', () => {
    const check = UP_TO_RESULT.slice(0, 3)
    expect(fold('ph-check', check).steps.map((s) => s.step.key)).toEqual([
      'hold',
      'found-process',
      'found-standard',
      'verdict',
      'back',
      'release',
    ])
    const on = fold('ph-check', [...check, { ...decided('adjust'), step: 'verdict' } as VisitEntry])
    expect(on.current?.key).toBe('clean')
    expect(on.steps.find((s) => s.step.key === 'found-standard')?.status).toBe('done')
  })
})

describe('the site\u2019s schools', () => {
  const keysWith = (change: Partial<WorkingPractices>): string[] =>
    fold('ph-two-point', [], { practices: { ...USUAL_PRACTICES, ...change } }).steps.map((s) => s.step.key)
  const stepWith = (key: string, change: Partial<WorkingPractices>): Step =>
    fold('ph-two-point', [], { practices: { ...USUAL_PRACTICES, ...change } }).steps.find((s) => s.step.key === key)
      ?.step as Step

  it('each choice says why, and each changes what is done or said', () => {
    for (const { choices } of Object.values(WORKING_PRACTICES)) {
      for (const { label, reason } of Object.values(choices)) expect(label.length * reason.length).toBeGreaterThan(100)
    }
    const verified = (verify: WorkingPractices['verify']) =>
      keysWith({ verify }).filter((key) => key.startsWith('verify'))
    expect([verified('first'), verified('last'), verified('both')]).toEqual([
      ['verify'],
      ['verify'],
      ['verify', 'verify-2'],
    ])
    expect(stepWith('verify', { verify: 'last' }).role).toBe('second')
    expect(keysWith({ temperature: 'process' })).toContain('float')
    expect(keysWith({ temperature: 'room' })).not.toContain('float')
    expect(stepWith('point-1', { order: 'far-first' }).role).toBe('second')
    expect(stepWith('rinse-2', { rinse: 'tap', dry: 'shake' }).hint).toMatch(/tap water and shake it off/)
    expect(stepWith('point-1', { stir: 'gentle' }).hint).toMatch(/gentle, even movement/)
  })
})

it('a factory-calibrated cell is tested, never adjusted; every kind has a way in and a way out', () => {
  const ids = (kind: SensorKind, device = {}) =>
    proceduresFor({ kind, device, shows: 'value', linked: false, adjustsBy: 'numbers', twins: [] }).map((p) => p.id)
  expect(ids('conductivity', { factoryCell: true })).toContain('conductivity-test-only')
  expect(ids('conductivity', { factoryCell: true }).filter((id) => /one-point|two-point|dry-zero/.test(id))).toEqual([])
})

it('whatever the kind, the device and the state, there is something to begin with, and a way out', () => {
  const settings = [{}, { factoryCell: true }, { ion: 'nitrate' }, { reference: 'agcl-3M' }, { fixedTemperature: 25 }]
  const lines = [{ linked: false }, ...['value', 'signal', 'both'].map((gives) => ({ linked: true, gives }))]
  const combinations = settings.flatMap((device) =>
    lines.flatMap((line) =>
      ['signal', 'value'].flatMap((shows) =>
        ['numbers', 'key', 'nothing'].map((adjustsBy) => ({ device, ...line, shows, adjustsBy, twins: [] })),
      ),
    ),
  )
  expect(combinations).toHaveLength(5 * 4 * 2 * 3)
  for (const kind of sensorKinds()) {
    for (const combination of combinations) {
      const offered = proceduresFor({ kind, ...combination } as unknown as Setup)
      const what = JSON.stringify({ kind, ...combination })
      expect(
        offered.map((p) => p.id),
        what,
      ).toContain('retire')
      expect(
        offered.filter((p) => p.baseline),
        what,
      ).not.toEqual([])
      expect(
        offered.some((p) => !p.baseline && !['retire', 'compare', 'electronics'].includes(p.id)),
        what,
      ).toBe(true)
      for (const p of offered.filter((o) => o.baseline)) {
        const steps = reduceVisit(p, { ...testSetup(p, kind), ...combination } as unknown as Setup, 0, []).steps
        expect(
          steps.map((s) => s.step.kind),
          `${what} ${p.id}`,
        ).toContainEqual(expect.stringMatching(/verdict|result/))
      }
    }
  }
})

it('a simulator plays what no water has: 0 and 40 Mohm.cm are shown as they are, what cannot be known is not judged', () => {
  const procedure = procedureOf('electronics')
  const device = { display: 'MΩ·cm', compensation: { law: 'high-purity' } } as const
  const setup = testSetup(procedure, 'conductivity', { processValue: 0.06, device })
  const after = (own: string) =>
    reduceVisit(procedure, setup, 0, [
      { at: 1, entry: done('hold') },
      { at: 2, entry: { type: 'filled', step: 'connect', values: { own } } },
    ])
  const expected = (own: string) =>
    (after(own).current?.fields ?? []).flatMap((f) => (f.kind === 'number' ? [f.expected] : []))
  expect(expected('40 Mohm.cm; 0 Mohm.cm').slice(3)).toEqual([expect.closeTo(40, 6), expect.closeTo(0, 5)])
  expect(expected('40 Mohm.cm at 60').at(-1)).toBeUndefined()
})

describe('high-purity water', () => {
  const steps = (change: Partial<Setup>) => {
    const procedure = procedureOf('conductivity-one-point')
    const setup = testSetup(procedure, 'conductivity', change)
    return reduceVisit(procedure, setup, 0, []).steps.map((s) => s.step)
  }

  it('has the line looked at before its cell is read, and other water has not', () => {
    const pure = steps({ processValue: 0.06, device: { display: 'MΩ·cm' } })
    const [looked, read] = ['in-place', 'found-process'].map((key) => pure.findIndex((s) => s.key === key))
    expect(looked).toBeGreaterThan(0)
    expect(read).toBe((looked as number) + 1)
    const ticks = pure[looked as number]?.ticks?.join() ?? ''
    for (const cause of [/flow/i, /solution ground/, /plastic tubing/, /CO2/]) expect(ticks).toMatch(cause)
    expect(steps({ processValue: 52_000 }).some((s) => s.key === 'in-place')).toBe(false)
    // Most of these cells are never adjusted: a sample or a comparison is all that is done there.
    for (const id of ['sample', 'compare', 'conductivity-test-only']) {
      const procedure = procedureOf(id)
      const setup = testSetup(procedure, 'conductivity', { processValue: 0.06, device: { display: 'MΩ·cm' } })
      expect(
        reduceVisit(procedure, setup, 0, []).steps.map((s) => s.step.key),
        id,
      ).toContain('in-place')
    }
  })

  it('is looked at before a pH probe too, where the position is said to stand in it', () => {
    for (const { id } of proceduresFor({ ...testSetup(procedureOf('ph-check'), 'ph'), adjustsBy: 'key' })) {
      const procedure = procedureOf(id)
      const keys = (change: Partial<Setup>) =>
        reduceVisit(procedure, testSetup(procedure, 'ph', change), 0, []).steps.map((s) => s.step.key)
      const reads = keys({}).some((key) => ['found-process', 'moment'].includes(key))
      expect([id, keys({ waterKind: 'pure' }).includes('in-place')]).toEqual([id, reads])
      expect(keys({ waterKind: 'seawater' })).not.toContain('in-place')
    }
  })
})
