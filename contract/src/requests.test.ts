import { describe, expect, it } from 'vitest'
import type { ValidationError } from 'yup'
import { formSchema, formValues } from './forms.ts'
import { applyBody, lotBody, startVisitBody } from './requests.ts'
import { typedBounds, typedReadingFields } from './typedNumber.ts'

const problems = (schema: { validateSync(v: unknown, o: object): unknown }, value: unknown): Record<string, string> => {
  try {
    schema.validateSync(value, { abortEarly: false, strict: true })
    return {}
  } catch (error) {
    return Object.fromEntries((error as ValidationError).inner.map((e) => [e.path ?? '', e.message]))
  }
}
const PH = typedBounds('ph', {}, 'value')
const MILLIVOLTS = typedBounds('ph', {}, 'signal')
const asker = { clientId: '7e6c2a1e-6b1f-4d0e-9d83-5a8a3c1f2b10', operator: 'S. Osk' }

describe('a typed reading', () => {
  const value = (text: string) => problems(typedReadingFields(PH, null), { value: text, temperature: '22' }).value

  it.each(['7.03', '7,03', '-1', '15', ' 8,1 '])('"%s" is a pH', (text) => expect(value(text)).toBeUndefined())

  it.each([
    ['', 'Type the pH, -1 to 15.'],
    ['about 7', '"about 7" is not a number. Type the pH, such as 7.00.'],
    ['-1.01', 'The pH is -1.01; it must lie within -1 to 15.'],
    ['15.01', 'The pH is 15.01; it must lie within -1 to 15. Was it 1.50? A decimal mark seems to be missing.'],
    ['7030', 'The pH is 7030; it must lie within -1 to 15. Was it 7.03? A decimal mark seems to be missing.'],
  ])('"%s" is answered with one clear sentence', (text, sentence) => expect(value(text)).toBe(sentence))

  it('knows the bounds of temperature and of millivolts', () => {
    const t = (temperature: string) => problems(typedReadingFields(PH, null), { value: '7', temperature }).temperature
    expect(t('-5')).toBeUndefined()
    expect(t('110')).toBeUndefined()
    expect(t('110.5')).toMatch(/it must lie within -5 to 110 °C/)
    expect(problems(typedReadingFields(MILLIVOLTS, null), { value: '-174,9', temperature: '20' })).toEqual({})
    expect(problems(typedReadingFields(MILLIVOLTS, null), { value: '1749', temperature: '20' }).value).toMatch(
      /Was it 174.9\?/,
    )
  })
})

describe('bodies', () => {
  it('take a shown value where one was read off a display, and none where the line is asked', () => {
    expect(problems(applyBody(PH), { ...asker, way: 'link' })).toEqual({})
    expect(problems(applyBody(PH), { ...asker, way: 'keyed' })).toEqual({})
    expect(problems(applyBody(PH), { ...asker, way: 'keyed', shownAfter: '7,01' })).toEqual({})
    expect(problems(applyBody(PH), { ...asker, way: 'keyed', shownAfter: '701' }).shownAfter).toMatch(/decimal mark/)
  })

  it('refuse what they do not know', () => {
    const good = { ...asker, position: 'CH-pH-1', procedure: 'ph-check', standards: { first: 'pH7.00' }, opening: {} }
    expect(problems(startVisitBody, good)).toEqual({})
    expect(Object.keys(problems(startVisitBody, { ...good, operator: '' }))).toEqual(['operator'])
    expect(Object.values(problems(startVisitBody, { ...good, sql: 'drop' }))[0]).toMatch(/sql/)
  })

  it('know what each kind of device shows, and what it cannot show', () => {
    const salinity = typedBounds('conductivity', { display: 'salinity' }, 'value')
    expect(salinity).toMatchObject({ what: 'salinity', unit: 'PSU', high: 45 })
    const shown = (value: string) => problems(typedReadingFields(salinity, null), { value, temperature: '25' }).value
    expect(shown('35.1')).toBeUndefined()
    // 53 mS/cm typed where salinity is shown.
    expect(shown('53')).toMatch(/salinity is 53; it must lie within 0 to 45 PSU/)
    expect(typedBounds('orp', {}, 'signal').unit).toBe('mV')
  })
})

describe('a form step', () => {
  const fields = [
    { key: 'result', label: 'Result', kind: 'number', unit: 'mg/L', low: 0, high: 50, decimals: 2 },
    { key: 'method', label: 'Method', kind: 'text', optional: true },
    { key: 'cause', label: 'Cause', kind: 'choice', choices: [{ value: 'aged', label: 'Aged' }] },
    { key: 'seen', label: 'Seen', kind: 'tick', must: true },
  ] as const

  it('names each field that is wrong, and takes comma numbers as numbers', () => {
    expect(problems(formSchema(fields), { result: '480', method: '', cause: '', seen: false })).toEqual({
      result: 'The result is 480; it must lie within 0 to 50 mg/L. Was it 48.00? A decimal mark seems to be missing.',
      cause: 'Choose one.',
      seen: 'Tick it when it is so.',
    })
    const typed = { result: '0,48', method: ' ', cause: 'aged', seen: true }
    expect(problems(formSchema(fields), typed)).toEqual({})
    expect(formValues(fields, typed)).toEqual({ result: 0.48, cause: 'aged', seen: true })
  })
})

describe('a temperature in a form', () => {
  const fields = [
    { key: 't', label: 'Reads', kind: 'number', unit: '°C', low: -10, high: 110, decimals: 2, usualTemperature: 24 },
  ] as const
  const said = (text: string) => problems(formSchema(fields), { t: text }).t

  it('is typed in °C, or in °F with its unit', () => {
    expect(['24.6', '24,6', '76.6 F', '76.6°F', '76.6 C', '31'].map(said)).toEqual(Array(6).fill(undefined))
    expect(formValues(fields, { t: '76.6 F' }).t).toBeCloseTo(24.78, 2)
    expect(formValues(fields, { t: '76.6 C' }).t).toBe(76.6)
  })

  it('is named as °F where it is likely in °F only', () => {
    expect(said('76.6')).toBe('76.6 looks like °F: choose °F beside it, or type C behind it if it is that hot.')
    expect(said('300 F')).toMatch(/must lie within -10 to 110 °C/)
    expect(said('warm')).toMatch(/not a temperature/)
  })
})

it.each([
  ['2026-02-29', false],
  ['2028-02-29', true],
  ['0000-01-01', false],
  ['2026-13-01', false],
  ['2026-1-1', false],
  ['1899-12-31', false],
  ['1900-01-01', true],
])('%s is a day: %s', async (expiresOn, is) => {
  const lot = { operator: 'A. Fenn', standard: 'pH7.00', lot: '7', keepsDays: 90, volume: 500, storage: '', expiresOn }
  expect(await lotBody.isValid({ ...lot, storage: 'cold' })).toBe(is)
})
