import { afterEach, describe, expect, it } from 'vitest'
import { testSetup } from '../../../lab/src/fixtures/testSetup.ts'
import { IONS, toMilligrams } from '../chemistry/ions.ts'
import { kindOf, ownPart, procedureOf, standardOf, takeOwnStandards } from '../kinds/index.ts'
import { pastVisit } from '../past/pastVisit.ts'
import { type OwnStandard, readPrintedValues } from './ownStandards.ts'

const own = (part: Partial<OwnStandard>): OwnStandard => ({
  code: 'own-test',
  kind: 'orp',
  label: 'Redox 475',
  table: { temperatures: [25], values: [475] },
  uncertainty: 10,
  against: 'agcl-saturated',
  caution: '',
  archived: false,
  ...part,
})

/** Other tests know only what is known everywhere. */
afterEach(() => {
  for (const kind of ['ph', 'orp', 'conductivity', 'ion'] as const) {
    const { standards } = kindOf(kind)
    for (let i = standards.length - 1; i >= 0; i--) if (standards[i]?.code.startsWith('own-')) standards.splice(i, 1)
  }
})

describe('a redox standard by its millivolts', () => {
  it('reads as its bottle says with that electrode, and elsewhere by the difference of the references', () => {
    takeOwnStandards([own({})])
    const { model } = kindOf('orp')
    expect(model.standardValue('own-test', 25, { reference: 'agcl-saturated' })).toBeCloseTo(475, 9)
    // 209 mV and 199 mV against hydrogen at 25 degC: USGS National Field Manual A6.5, from memory.
    expect(model.standardValue('own-test', 25, { reference: 'agcl-3M' })).toBeCloseTo(465, 9)
    expect(() => model.standardValue('own-test', 12, {})).toThrow(/Redox 475/)
    takeOwnStandards([own({ against: 'hydrogen' })])
    expect(model.standardValue('own-test', 25, { reference: 'agcl-3M' })).toBeCloseTo(266, 9)
  })

  it('is offered first, calibrates, and is offered no more once it was put away; records keep what it is', () => {
    takeOwnStandards([own({})])
    const procedure = procedureOf('orp-offset')
    const setup = testSetup(procedure, 'orp', {
      device: { reference: 'agcl-saturated' },
      shows: 'value',
      linked: false,
    })
    expect(setup.standards.first?.code).toBe('own-test')
    const read = { standard: 'own-test', before: 489, after: null }
    const visit = pastVisit(setup, {
      at: 0,
      row: {},
      points: [read],
      reference: null,
      temperature: 25,
      readAs: 'shown',
      stated: {},
      calibrated: true,
    })
    if ('problem' in visit) throw new Error(visit.problem)
    const found = visit.procedure.judge(visit.progress.evidence, 'result')?.found
    expect(found?.characteristic.offset).toBeCloseTo(-14, 9)
    expect(visit.setup.standards.first?.own).toEqual(own({}))
    takeOwnStandards([own({ archived: true })])
    expect(procedure.roles[0]?.propose(setup)).not.toContain('own-test')
    expect(standardOf('own-test').label).toBe('Redox 475')
    expect(ownPart('zobell')).toEqual({})
  })
})

it('a buffer follows its printed table, and is known only within it', () => {
  takeOwnStandards([
    own({
      kind: 'ph',
      label: 'pH 6.00',
      table: { temperatures: [20, 25, 30], values: [6.01, 6.0, 5.99] },
      uncertainty: 0.05,
    }),
  ])
  const { valueAt, nominal, uncertainty } = standardOf('own-test')
  expect([valueAt(20), valueAt(25), nominal, uncertainty]).toEqual([6.01, 6, 6, 0.05])
  expect(() => valueAt(31)).toThrow(/pH 6\.00/)
})

it('a conductivity of one printed value follows the law of KCl, one of a table the table', () => {
  const ec = own({
    kind: 'conductivity',
    label: 'EC 2.0',
    table: { temperatures: [25], values: [2000] },
    uncertainty: 1,
  })
  takeOwnStandards([ec])
  // As KCl 0.01 mol/kg: 1273.03 and 1408.23 uS/cm at 20 and 25 degC (IUPAC 2001).
  expect(standardOf('own-test').valueAt(20)).toBeCloseTo((2000 * 1273.03) / 1408.23, 1)
  takeOwnStandards([{ ...ec, table: { temperatures: [20, 25], values: [1790, 2000] } }])
  expect(standardOf('own-test').valueAt(20)).toBe(1790)
  expect(kindOf('conductivity').standards.filter((s) => s.code === 'own-test')).toHaveLength(1)
})

it('an ion standard says what is in it; what is felt of that is its activity', () => {
  takeOwnStandards([
    own({ kind: 'ion', label: 'K 100', ion: 'potassium', table: { temperatures: [25], values: [100] } }),
  ])
  const { model } = kindOf('ion')
  const device = { ion: 'potassium' as const }
  expect(model.standardValue('own-test', 25, { ...device, expects: 'concentration' })).toBeCloseTo(100, 9)
  const activity = model.standardValue('own-test', 25, device)
  // 2.56 mmol/L: an activity coefficient of about 0.945 by the extended law of Debye and Hueckel.
  expect(activity / toMilligrams(100 / 1000 / IONS.potassium.molarMass, IONS.potassium)).toBeCloseTo(0.945, 2)
})

describe('what is printed on a bottle', () => {
  const within = { low: -1000, high: 1500 }
  it('is one value, or a line for each temperature, as people write them', () => {
    expect(readPrintedValues('475', within)).toEqual({ temperatures: [25], values: [475] })
    expect(readPrintedValues('25 °C: 475\n20 478,5\n\n30;471', within)).toEqual({
      temperatures: [20, 25, 30],
      values: [478.5, 475, 471],
    })
    expect(readPrintedValues('77 F 475', within)).toEqual({ temperatures: [25], values: [475] })
    expect(readPrintedValues('12,88', { low: 0, high: 1e5 }, 1000)).toEqual({ temperatures: [25], values: [12_880] })
  })

  it.each([
    ['', 'Type the value on its label.'],
    ['high', '"high" is no value, and no temperature with its value.'],
    ['25 475\n25 476', 'A temperature is there twice.'],
    ['9000', '9000 cannot be; it must lie within -1000 and 1500.'],
    ['475 25', '475 °C is no temperature of a standard.'],
  ])('%j is refused', (text, problem) => {
    expect(readPrintedValues(text, within)).toEqual({ problem })
  })
})
