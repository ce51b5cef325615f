import { calibratePhTwoPoint, observationOf, procedureOf, type Setup } from '@frustum/core'
import type { FAULT_BITS } from '@frustum/lab/stand-ins'
import { describe, expect, it } from 'vitest'
import { plain } from '../../lab/src/fixtures/plain.ts'
import { Bench } from './testBench.ts'

/**
 * What goes wrong at the tank, played on a stand-in with a clock of its own: each fault must lead to a plain sentence
 * and a way on, before anything wrong is kept. The list is that of the trade (common practice, no source).
 */

const ph = (change: Partial<Setup> = {}) => new Bench('CH-pH-1', 'ph-two-point', change)

it.each([
  ['CH-S-1', 'conductivity-dry-zero', 'air', 'air'],
  ['CH-pH-1', 'ph-two-point', 'point-1', 'pH7.00'],
])('what is offered at %s stays offered until a wet hand has pressed', (code, procedure, step, bath) => {
  const kept = Array.from({ length: 12 }, (_, seed) => {
    const bench = new Bench(code, procedure, {}, seed).to(step).dip('rinse')
    bench.watch(3)
    bench.dip(bath)
    const offered = () => bench.watch(1).taken
    for (let waited = 0; !offered(); waited++) expect(waited).toBeLessThan(300)
    return Array.from({ length: 10 }, offered).every(Boolean)
  })
  expect(kept.filter(Boolean).length).toBeGreaterThanOrEqual(11)
})

it.each([
  ['ph-two-point', 'point-1', ['point-1', 'point-2'], {}],
  ['self-ph-two-point', 'found-standard', ['found-standard', 'found-second'], { adjustsBy: 'key' }],
] as const)('%s: to take the points again is to take all of them again', (id, first, points, setup) => {
  const bench = new Bench('CH-pH-1', id, setup).to(first).dip('pH7.00')
  bench.watch(120)
  bench.take()
  if (id === 'ph-two-point') bench.done()
  bench.dip('pH10.01').watch(120)
  bench.take()
  bench.decide('repeat').at(first)
  const { readings } = bench.progress.evidence
  expect(points.filter((key) => readings[key] !== undefined)).toEqual([])
})

it('back in the process with the probe still in its cup: nothing is said of the tank, and a break starts the clock anew', () => {
  const bench = ph({ processTemperature: 30 }).to('point-1').dip('pH7.00')
  bench.watch(120)
  bench.take()
  bench.done().dip('pH10.01').watch(120)
  bench.take()
  bench.decide('leave-alone').at('back')
  // Twenty minutes elsewhere, the probe left in the buffer.
  const still = bench.watch(1200)
  expect(still).toMatchObject({ arrived: false, finding: null })
  expect(still.opinion?.state).toBe('settling')
  bench.dip('process')
  const moved = bench.watch(10)
  expect(moved.arrived).toBe(true)
  expect(moved.opinion?.elapsed).toBeLessThan(15)
  // Now that it is in the water, what is wrong there is said.
  expect(bench.watch(60).finding?.code).toBe('wrong-temperature-input')
})

it('a device that shows a word while it calibrates: the word is kept, the value is read afterwards, and nothing is said of the electrode', () => {
  const bench = new Bench('CH-pH-4', 'self-ph-two-point', { linked: false, adjustsBy: 'key', whileCalibrating: 'word' })
  // Its zero stands 20 mV off, which no step may tell of the electrode.
  bench.device.calibration = { zero: 20, slopeEfficiency: 0.9 }
  const cup = (bufferCode: string) => {
    bench.dip(bufferCode).read()
    const { signal, temperature } = bench.device.read()
    return { bufferCode, millivolts: signal, millivoltsUncertainty: 0.1, temperature }
  }
  bench.to('found-standard')
  const itself = calibratePhTwoPoint(cup('pH7.00'), cup('pH10.01'))
  expect(bench.result('verdict')?.proposal.decision).toBe('adjust')
  bench.decide('adjust').at('clean').done().at('still-1')
  expect(bench.progress.current).toMatchObject({ kind: 'wait', minutes: 0.25, goesOn: true })
  bench.done().fill({ word: '37', said: 'good' }).at('still-2').done().fill({ word: 'END', said: 'good' })
  bench.device.calibration = { zero: itself.zero, slopeEfficiency: itself.slopeEfficiency }
  // It stands in the last cup.
  bench.at('left-2').read()
  bench.dip('pH7.00').at('left-1').read()
  const result = bench.result()
  expect(result?.figures.map((f) => f.label)).toEqual(['As left in pH 7.00', 'As left in pH 10.01'])
  expect(result).toMatchObject({ found: null, proposal: { decision: 'leave-alone' } })
  bench.decide('leave-alone').to('release').done()
  const { evidence } = bench.progress
  expect(evidence.applied).toBeNull()
  expect(observationOf(procedureOf('self-ph-two-point'), evidence)).toMatchObject({ adjusted: true, verified: true })
  const refused = new Bench('CH-pH-4', 'self-ph-two-point', {
    linked: false,
    adjustsBy: 'key',
    whileCalibrating: 'word',
  })
  refused.to('found-standard').dip('pH7.00').read()
  refused.dip('pH10.01').read()
  refused
    .decide('adjust')
    .to('key-1')
    .fill({ word: 'Err', said: 'bad' })
    .to('key-2')
    .fill({ word: 'END', said: 'good' })
  expect(refused.skip().skip().result()?.findings[0]?.code).toBe('device-refused')
})

describe('at a pH step', () => {
  it('swapped: the cup is named, and not taken without a reason', () => {
    const bench = ph().to('point-1').fault('swapped').dip('pH7.00')
    const { finding } = bench.watch(60)
    expect(finding?.code).toBe('wrong-standard')
    expect(plain(finding?.sentence)).toMatch(/^This reads like pH \d+\.\d\d: pH 10\.01, not pH 7\.00\.$/)
    expect(plain(finding?.advice)).toMatch(/rinse and go into pH 7\.00/)
    expect(() => bench.take()).toThrow(/reads like/)
  })

  it('swapped both ways and taken regardless: the result says swapped, and to take them again', () => {
    const bench = ph().to('point-1').fault('swapped').dip('pH7.00')
    bench.watch(90)
    bench.take('I am sure of it')
    bench.done().dip('pH10.01').watch(90)
    bench.take('I am sure of it')
    expect(bench.result()).toMatchObject({ found: null, proposal: { decision: 'repeat' } })
    expect(bench.result()?.findings[0]?.code).toBe('standards-swapped')
  })

  it('left-over value: a display that holds the last standard is seen as such', () => {
    const bench = ph().to('point-1').dip('pH7.00')
    bench.watch(120)
    bench.take()
    bench.done().fault('leftOver').dip('pH10.01')
    const message = bench.watch(60)
    expect(['wrong-standard', 'left-over-value']).toContain(message.finding?.code)
    expect(() => bench.take()).toThrow()
  })

  it('too early: is refused, and with a reason kept as early with the uncertainty that it has', () => {
    const bench = ph().to('point-1').dip('pH7.00')
    bench.watch(6)
    expect(() => bench.take()).toThrow('The reading is not stable yet.')
    expect(bench.take('No time').signalUncertainty).toBeGreaterThan(2.2)
    expect(bench.progress.evidence.readings['point-1']?.earlyReason).toBe('No time')
  })

  it('a bubble: disturbed, then settled anew once it is tapped off', () => {
    const bench = ph().to('point-1').dip('pH7.00')
    bench.watch(20)
    bench.fault('bubble')
    expect(bench.watch(4).opinion?.state).toBe('disturbed')
    bench.fault()
    expect(bench.watch(200).opinion?.state).toBe('stable')
  })

  it('noise: says so, and is not taken', () => {
    const bench = ph().to('point-1').dip('pH7.00')
    bench.watch(40)
    bench.fault('cableNoise')
    const { opinion } = bench.watch(40)
    expect(opinion?.state).toBe('disturbed')
    expect(() => bench.take()).toThrow('not stable')
  })

  it('wrong temperature: named in the water whose temperature is known', () => {
    const { finding } = ph().to('found-process').fault('wrongTemperature').watch(30)
    expect(finding).toMatchObject({ code: 'wrong-temperature-input', severity: 'warn' })
    expect(plain(finding?.sentence)).toMatch(/Temperature shown: 3\d\.\d °C; usual for this water: 24\.6 °C\./)
  })

  it('unstable temperature: the value may stand, it is not valid before the temperature stands too', () => {
    const bench = ph().to('point-1').fault('unsteady').dip('pH7.00')
    const states = Array.from({ length: 60 }, () => bench.watch(2).opinion)
    expect(states.filter((o) => o?.state === 'stable').length).toBeLessThan(12)
    expect(states.some((o) => o?.reason === 'temperature-moving' || o?.reason === 'value-moving')).toBe(true)
  })

  it('a dead probe: both buffers alike, nothing is adjusted, and where to look is said', () => {
    const bench = ph().to('point-1').fault('dead').dip('pH7.00')
    bench.watch(90)
    bench.take('It hardly moves')
    bench.done().dip('pH10.01').watch(90)
    bench.take('It hardly moves')
    const result = bench.result()
    expect(result?.findings[0]?.code).toBe('no-response')
    expect(plain(result?.findings[0]?.advice)).toMatch(/cracked bulb, a dry junction, a loose plug/)
    expect(result?.choices).not.toContain('adjust')
    // What it was found to be goes on record, and is given to no device.
    expect(Math.abs(result?.found?.characteristic.slopeEfficiency ?? 1)).toBeLessThan(0.2)
    expect(result?.proposal.decision).toBe('repeat')
    bench.decide('repeat').at('point-1').dip('pH7.00').watch(90)
    bench.take('It hardly moves')
    bench.done().dip('pH10.01').watch(90)
    bench.take('It hardly moves')
    expect(bench.result()?.proposal.decision).toBe('replace')
  })

  it('expired: said with the lot before the reading, and again in the result', () => {
    const lot = { lot: '7-00', expired: true, openTooLong: false, daysOver: 18 }
    const bench = ph({ standards: { first: { code: 'pH7.00', lot }, second: { code: 'pH10.01', lot: null } } })
    bench.to('point-1').dip('pH7.00').watch(120)
    bench.take()
    bench.done().dip('pH10.01').watch(120)
    bench.take()
    const result = bench.result()
    expect(plain(result?.findings.find((f) => f.code === 'lot-expired')?.sentence)).toBe(
      'Lot 7-00 expired 18 days ago.',
    )
    expect(result?.proposal.decision).toBe('repeat')
  })

  it('carried over: a first buffer that reads otherwise on the return is a question before leaving', () => {
    const bench = ph().to('point-1').dip('pH7.00')
    bench.watch(120)
    bench.take()
    bench.done().dip('pH10.01').watch(120)
    bench.take()
    bench.decide('adjust')
    // What was carried over made the zero wrong by 6 mV.
    bench.apply({ slopeEfficiency: 0.985, zero: -3 + 0.012 * 560 + 6 })
    const { finding } = bench.at('verify').dip('pH7.00').watch(120)
    expect(finding?.code).toBe('carried-over')
    expect(plain(finding?.advice)).toMatch(/take the points again/)
  })

  it('beaker right, tank wrong: stray voltage shows on the way back, and asks to unplug in turn', () => {
    const bench = ph().to('found-process')
    bench.watch(200)
    bench.take('It hardly moves')
    bench.to('point-1').dip('pH7.00').watch(150)
    bench.take()
    bench.done().dip('pH10.01').watch(150)
    bench.take()
    bench.decide('leave-alone').to('back').dip('process')
    const { finding } = bench.fault('stray').watch(60)
    expect(finding?.code).toBe('beaker-right-tank-wrong')
    expect(plain(finding?.advice)).toMatch(/unplug pumps, heaters and lights in turn.*licensed electrician/)
  })
})

describe('at a conductivity step', () => {
  const cell = (procedure: string, change: Partial<Setup> = {}) => new Bench('CH-S-1', procedure, change)

  it('a wrong cup is recognised among the standards about', () => {
    const { finding } = cell('conductivity-one-point').to('point-1').dip('kcl-12.88').watch(60)
    expect(finding).toMatchObject({ code: 'wrong-standard' })
    expect(plain(finding?.sentence)).toMatch(/12\.88 mS\/cm, not 53\.0 mS\/cm seawater/)
  })

  it('a wrong compensation setting is told from a bad cell, with the setting that it fits', () => {
    const bench = cell('conductivity-one-point').to('point-1').fault('compensation').dip('seawater-53')
    const { finding } = bench.watch(60)
    expect(finding?.code).toBe('wrong-compensation')
    expect(plain(finding?.advice)).toMatch(/The cell is not at fault/)
  })

  it('a unit slip is named by its factor', () => {
    const { finding } = cell('conductivity-one-point').to('point-1').fault('unitSlip').dip('seawater-53').watch(60)
    expect(finding?.code).toBe('unit-slip')
    expect(plain(finding?.sentence)).toMatch(/µS\/cm for mS\/cm/)
  })

  it('a wet cell is no zero', () => {
    const bench = cell('conductivity-dry-zero').to('air').fault('notDry')
    bench.dip('rinse').dip('air')
    const { finding } = bench.watch(60)
    // Seawater forgives a drop; what reads more than half a percent of it does not.
    const fresh = new Bench('WH-EC-2', 'conductivity-dry-zero').to('air').fault('notDry').dip('air')
    expect(fresh.watch(60).finding?.code).toBe('cell-not-dry')
    expect(() => fresh.take()).toThrow(/it is not dry/)
    expect(finding).toBeNull()
  })

  it('test only: a coated cell is cleaned and retested in fresh solution until it passes, and never adjusted', () => {
    const bench = new Bench('WH-EC-1', 'conductivity-test-only')
    bench.to('found-standard').dip('kcl-2.77').watch(90)
    bench.take('Testing')
    const first = bench.result('verdict')
    expect(first?.choices).not.toContain('adjust')
    expect(['leave-alone', 'clean-and-recheck']).toContain(first?.proposal.decision)
    bench.decide('clean-and-recheck').at('clean-1')
    bench.device.wipe()
    bench.done().at('test-1')
    expect(bench.progress.current?.title).toMatch(/fresh pouring/)
    bench.dip('process').dip('kcl-2.77').watch(90)
    bench.take('Testing')
    expect(bench.result('verdict-1')?.proposal.decision).toBe('leave-alone')
    expect(bench.progress.steps.filter((s) => s.step.kind === 'verdict')).toHaveLength(2)
  })
})

describe('a factory-calibrated cell that shows 2.50 mS/cm in 2.77, read manually at 21 °C', () => {
  // Both fit: a coated cell, and a device that compensates by another coefficient than noted.
  const tests = () => {
    const bench = new Bench('WH-EC-1', 'conductivity-test-only', { linked: false, shows: 'value' }).to('found-standard')
    const test = (shown: number) => {
      bench.typed(shown, 21, true)
      bench.take('Testing')
      const step = bench.progress.current?.key ?? ''
      const proposal = bench.result(step)?.proposal
      return { decision: proposal?.decision, reason: plain(proposal?.reason) }
    }
    const clean = () => bench.decide('clean-and-recheck').done()
    const again = () => bench.decide('repeat')
    return { test, clean, again }
  }

  it('is cleaned first, with the setting named; only where that changed nothing, the setting is corrected, once', () => {
    const { test, clean, again } = tests()
    const first = test(2.5)
    expect(first.decision).toBe('clean-and-recheck')
    expect(first.reason).toMatch(/it fits .*Check the setting in the device’s menu; if it is as noted, clean the cell/)
    clean()
    const second = test(2.51)
    expect(second.decision).toBe('repeat')
    expect(second.reason).toMatch(/^Cleaning changed nothing, so the setting is the likelier cause/)
    again()
    expect(test(2.5).decision).toBe('replace')
  })

  it('is cleaned again as long as cleaning helps', () => {
    const { test, clean } = tests()
    test(2.5)
    clean()
    const second = test(2.6)
    expect(second.decision).toBe('clean-and-recheck')
    expect(second.reason).toMatch(/^Cleaning helped: -9\.9 % before, -6\.3 % now/)
    clean()
    expect(test(2.61)).toMatchObject({ decision: 'replace' })
    clean()
    expect(test(2.76)).toMatchObject({ decision: 'leave-alone' })
  })

  it('is given up after four tests, although each cleaning helped', () => {
    const { test, clean } = tests()
    const decisions = [2.2, 2.3, 2.4, 2.5].map((shown, i) => {
      if (i > 0) clean()
      return test(shown).decision
    })
    expect(decisions).toEqual([...Array(3).fill('clean-and-recheck'), 'replace'])
  })
})

it('a rule to calibrate at each visit counts as the plan: a sound check goes on, a sound result is given', () => {
  const decisions = (change: Partial<Setup>) => {
    const bench = ph(change).to('point-1').dip('pH7.00')
    bench.watch(120)
    bench.take()
    bench.to('point-2').dip('pH10.01').watch(120)
    bench.take()
    const check = new Bench('CH-pH-1', 'ph-check', change).to('found-standard').dip('pH7.00')
    check.watch(120)
    check.take()
    return [bench.result()?.proposal, check.result('verdict')?.proposal]
  }
  // A tolerance that these points are well within.
  expect(decisions({ tolerance: 1 }).map((p) => p?.decision)).toEqual(['leave-alone', 'leave-alone'])
  const routine = decisions({ tolerance: 1, routine: true })
  expect(routine.map((p) => p?.decision)).toEqual(['adjust', 'adjust'])
  for (const p of routine)
    expect(plain(p?.reason)).toMatch(/Your rule for this sensor is to calibrate at each visit\.$/)
  expect(plain(routine[0]?.reason)).not.toMatch(/more error/)
})

describe('points that were doubted, taken again and doubted for the same', () => {
  /** Reads both buffers manually, with this many millivolts in the second one. */
  const readings = (second: number, change: Partial<Setup> = {}) => {
    const bench = ph({ linked: false, shows: 'signal', ...change })
    const type = (value: number) => {
      bench.typed(value, 25, true)
      bench.take('Testing')
    }
    const readBoth = () => {
      bench.to('point-1')
      type(0)
      bench.to('point-2')
      type(second)
      const proposal = bench.result()?.proposal
      return [proposal?.decision, plain(proposal?.reason)]
    }
    return { bench, readBoth }
  }

  it('are not asked for a third time: the sensor is cleaned, then left as it is', () => {
    // 107 % of the Nernst slope: more than an electrode can have.
    const { bench, readBoth } = readings(-190)
    expect(readBoth()[0]).toBe('repeat')
    bench.decide('repeat')
    expect(readBoth()).toEqual(['clean-and-recheck', expect.stringMatching(/gave the same result\. Clean the sensor/)])
    bench.decide('clean-and-recheck')
    expect(readBoth()).toEqual(['leave-alone', expect.stringMatching(/Leave the calibration as it is until the cause/)])
  })

  it('are not cleaned away where the standard is at fault', () => {
    const lot = { lot: 'A-1', expired: true, openTooLong: false, daysOver: 9 }
    const standards = { first: { code: 'pH7.00', lot }, second: { code: 'pH10.01', lot: null } }
    const { bench, readBoth } = readings(-176, { standards })
    expect(readBoth()[0]).toBe('repeat')
    bench.decide('repeat')
    expect(readBoth()[0]).toBe('leave-alone')
  })
})

describe('at an ion step', () => {
  it('a display in mg/L as N is told from a tip that is off', () => {
    const first = { code: 'nitrate-100N', lot: null }
    const bench = new Bench('BR-Cl-1', 'ion-two-point', {
      device: { ion: 'nitrate' },
      standards: { high: first, low: { code: 'nitrate-1N', lot: null } },
      linked: false,
      shows: 'value',
    })
    const { finding } = bench.to('point-1').typed(100, 22, true)
    expect(finding?.code).toBe('unit-slip')
    expect(plain(finding?.sentence)).toMatch(
      /^100 is 44\d(\.\d)? in another unit: nitrate for nitrate-N, the other way round\.$/,
    )
  })

  const pair = (bench: Bench, ...faults: (keyof typeof FAULT_BITS)[]) => {
    if (bench.progress.current?.key !== 'point-1') bench.to('clean').done().to('point-1')
    bench.dip('chloride-319').watch(150)
    bench.take('Testing')
    bench
      .done()
      .fault(...faults)
      .dip('chloride-46.2')
      .watch(200)
    bench.take('Testing')
    return bench.result()
  }
  const tip = (change: Partial<Setup> = {}) => new Bench('BR-Cl-1', 'ion-two-point', change)

  it('the pair rule is said at once: temperatures apart, and a gap that a worn tip gives', () => {
    expect(pair(tip(), 'warm')?.findings.map((f) => f.code)).toContain('temperatures-apart')
    const bench = tip()
    const worn = pair(bench)
    expect(plain(worn?.findings.find((f) => f.code === 'gap-outside')?.advice)).toMatch(/ageing tip/)
    // Fresh standards first, then a day in the low one, then another tip.
    expect(worn?.proposal.decision).toBe('repeat')
    expect(pair(bench.decide('repeat'))?.proposal.decision).toBe('condition')
    expect(pair(bench.decide('condition').at('soak').done())?.proposal.decision).toBe('replace')
  })

  it('a tip that its own page calls spent is called so here, and is neither soaked nor doubted again', () => {
    const final = { cause: 'ion-tip-spent', name: 'ion tip spent', remedy: 'Replace the tip.', final: true } as const
    const worn = pair(tip({ diagnosed: { ...final, probability: 0.84 } }))
    expect(worn?.findings.map((f) => plain(f.sentence))).toContain('Its record points to: ion tip spent, 84 % likely.')
    expect(worn?.proposal.decision).toBe('replace')
  })
})

describe('at a comparison', () => {
  const against = (outside: number | undefined, mine: number | undefined) => {
    const twin = { position: 'CH-pH-2', value: 8.6, uncertainty: 0.03, ...(outside === undefined ? {} : { outside }) }
    const bench = new Bench('CH-pH-1', 'compare', { twins: [twin], ...(mine === undefined ? {} : { outside: mine }) })
    bench.dip('process').watch(30)
    bench.take()
    const judged = bench.fill({ value0: 8.6, uncertainty0: 0.03 }).result('verdict')
    return { calibrate: judged?.calibrate, reason: plain(judged?.proposal.reason) }
  }

  it('of two that differ the one that is out by its own drift is the odd one', () => {
    expect(against(0.97, 0.1)).toMatchObject({
      calibrate: 'CH-pH-2',
      reason: expect.stringMatching(/CH-pH-2 is out of line\. By its own drift it is out with 97 %\./),
    })
    expect(against(0.1, 0.97)).toMatchObject({
      calibrate: 'CH-pH-1',
      reason: expect.stringMatching(/Calibrate this one/),
    })
  })

  it('a likelihood that the readings outweigh is not stated', () => {
    const notes = (outside: number, others: { position: string; value: number; outside: number }[]) => {
      const twins = others.map((o) => ({ ...o, uncertainty: 0.03 }))
      const bench = new Bench('CH-pH-1', 'compare', { twins, outside })
      bench.dip('process').watch(30)
      const mine = bench.take().shown ?? Number.NaN
      const values = twins.flatMap((t, i) => [
        [`value${i}`, mine + t.value],
        [`uncertainty${i}`, 0.03],
      ])
      return bench
        .fill(Object.fromEntries(values))
        .result('verdict')
        ?.figures.map((f) => plain(f.note))
    }
    const [one, other] = ['CH-pH-2', 'CH-pH-3'].map((position) => ({ position, outside: 0.99 }))
    // Two agree without the third: it is out of line, whatever its forecast was.
    const odd = notes(0.99, [{ ...one, value: 0.5 } as never, { ...other, value: 0.01 } as never])
    expect(odd?.join()).not.toMatch(/likely out/)
    expect(odd?.[1]).toMatch(/out of line/)
    // Each trusts itself, and they differ: neither "less than 1 % likely out" stands next to that.
    expect(notes(0.004, [{ ...one, value: 0.5, outside: 0.004 } as never])?.join()).not.toMatch(/likely out/)
    expect(notes(0.004, [{ ...one, value: 0.5, outside: 0.99 } as never])?.[1]).toMatch(/99 % likely out, out of line/)
  })

  it('where both may be, or neither is known, the likelier one is to be checked first, and nobody is sent for a third', () => {
    expect(against(0.97, 0.99)).toMatchObject({
      calibrate: 'CH-pH-1',
      reason: expect.stringMatching(/check CH-pH-1 in a fresh standard first/),
    })
    expect(against(0.99, 0.99).reason).toMatch(/more than one is likely out/)
    expect(against(0.4, 0.2).calibrate).toBe('CH-pH-2')
    expect(against(undefined, undefined).reason).not.toMatch(/third/)
  })
})
