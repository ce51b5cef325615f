import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { type MessageFormat, PayloadProblem } from './message.ts'
import { foundOf, newestWith } from './messageSensors.ts'
import { formatOf, readPayload } from './payload.ts'

const NOW = Date.UTC(2026, 5, 1, 12)
const read = (text: string, format: MessageFormat, time?: string) => readPayload(text, { format, time, now: NOW })

describe('a field of JSON', () => {
  // RFC 6901, section 5.
  const document = JSON.stringify({
    foo: ['bar', 'baz'],
    '': 0,
    'a/b': 1,
    'c%d': 2,
    'e^f': 3,
    'g|h': 4,
    'i\\j': 5,
    'k"l': 6,
    ' ': 7,
    'm~n': 8,
  })
  it.each([
    ['/foo/0', 'bar'],
    ['/', 0],
    ['/a~1b', 1],
    ['/c%d', 2],
    ['/e^f', 3],
    ['/g|h', 4],
    ['/i\\j', 5],
    ['/k"l', 6],
    ['/ ', 7],
    ['/m~0n', 8],
    ['/foo', undefined],
    ['/nothing/here', undefined],
    ['foo', undefined],
    ['/__proto__/x', undefined],
    ['/constructor/name', undefined],
  ])('%s is %s', (field, value) => {
    expect(read(document, 'json')[0]?.find(field)).toBe(value)
  })

  it('is found again under the name that all its fields are listed by', () => {
    fc.assert(
      fc.property(fc.object({ maxDepth: 3, values: [fc.double({ noNaN: true }), fc.boolean()] }), (tree) => {
        const text = JSON.stringify({ in: tree })
        const [record] = read(text, 'json')
        for (const { field, value } of record?.leaves() ?? []) {
          if (/\/(__proto__|constructor|prototype)(\/|$)/.test(field)) continue
          expect(record?.find(field)).toBe(value)
        }
      }),
    )
  })

  it('of many moments carries its time in each, and the newest is of now', () => {
    const text = JSON.stringify([
      { t: '2026-06-01T11:00:00Z', ph: 7.1 },
      { t: '2026-06-01T13:00:00+02:00', ph: 7.2 },
      { t: 1780308000, ph: 7.3 },
    ])
    const records = read(text, 'json', '/t')
    expect(records.map((r) => r.at)).toEqual([NOW - 3_600_000, NOW - 3_600_000, 1780308000_000])
    expect(newestWith(records, '/ph')?.find('/ph')).toBe(7.2)
  })
})

describe('SenML', () => {
  // RFC 8428, section 5.1.1, 5.1.2 and 5.1.3.
  it('of the standard resolves to what the standard says', () => {
    const one = read('[{"n":"urn:dev:ow:10e2073a01080063","u":"Cel","v":23.1}]', 'senml')
    expect(one[0]?.leaves()).toEqual([{ field: 'urn:dev:ow:10e2073a01080063', value: 23.1, unit: '°C' }])
    const series = read(
      `[{"bn":"urn:dev:ow:10e2073a0108006:","bt":1.276020076001e+09,"bu":"A","bver":5,"n":"voltage","u":"V","v":120.1},
        {"n":"current","t":-5,"v":1.2},{"n":"current","t":-4,"v":1.3},{"n":"current","t":-3,"v":1.4},
        {"n":"current","t":-2,"v":1.5},{"n":"current","t":-1,"v":1.6},{"n":"current","v":1.7}]`,
      'senml',
    )
    const current = 'urn:dev:ow:10e2073a0108006:current'
    const values = series.flatMap((r) => (r.find(current) === undefined ? [] : [[r.at, r.find(current)]]))
    expect(values).toEqual([
      [1276020076001, 1.7],
      [1276020071001, 1.2],
      [1276020072001, 1.3],
      [1276020073001, 1.4],
      [1276020074001, 1.5],
      [1276020075001, 1.6],
    ])
    expect(series[0]?.leaves()).toContainEqual({ field: 'urn:dev:ow:10e2073a0108006:voltage', value: 120.1, unit: 'V' })
  })

  it('counts small times from now, adds base values, and is none where it has to be understood and is not', () => {
    expect(read('[{"n":"ph","t":-60,"v":7}]', 'senml')[0]?.at).toBe(NOW - 60_000)
    expect(read('[{"bv":7,"n":"ph","v":0.25},{"n":"state","vs":"ok"}]', 'senml')[0]?.find('ph')).toBe(7.25)
    for (const bad of ['{"n":"ph"}', '[3]', '[{"n":"ph","v":"7"}]', '[{"n":"ph","v":7,"x_":1}]'])
      expect(() => read(bad, 'senml')).toThrow(PayloadProblem)
  })
})

it('a number in a text is read where it can mean one number only', () => {
  const texts = ['7,25', '−182.4', '2.5e-3', '1,413', '1,413.5', 'on']
  expect(texts.map((text) => foundOf(text).value)).toEqual([7.25, -182.4, 0.0025, null, 1413.5, null])
})

it('lines of fields keep their tags, escapes, quotes and times', () => {
  const text =
    '# noted by itself\ntank,room=hall ph=7.25,temp=24i 1780308000000000000\n' +
    'a\\ b,t\\,1=x\\=y f="a, b=c \\"d\\"",ok=true 1780308060000000000'
  const [first, second] = read(text, 'line')
  expect(first?.at).toBe(1780308000000)
  expect(first?.find('tank,room=hall/ph')).toBe(7.25)
  expect(first?.find('tank,room=hall/temp')).toBe(24)
  expect(second?.find('a b,t,1=x=y/f')).toBe('a, b=c "d"')
  for (const bad of ['tank', 'tank ph', 'tank ph=', 'tank ph=1 2 3', 'tank ph=x'])
    expect(() => read(bad, 'line')).toThrow(PayloadProblem)
})

it('columns are found by their headings, and their times by the usual ones', () => {
  const [first, second] = read('Time;pH;Temp\n2026-06-01 11:59:00Z;7,25;24,1\n2026-06-01T12:00:00+00:00;;24,2\n', 'csv')
  expect(first?.at).toBe(NOW - 60_000)
  expect(foundOf(first?.find('pH') ?? null).value).toBe(7.25)
  expect(foundOf(second?.find('pH') ?? null).value).toBeNull()
  expect(() => read('Time,pH\n2026-06-01 12:00,7', 'csv')).toThrow('has no zone')
  expect(() => read('Time,pH\n', 'csv')).toThrow(PayloadProblem)
})

it('XML is read by pointers, attributes with @ before them, and what it defines by itself is not', () => {
  const [record] = read('<status><ch id="1"><ph unit="pH">7.25</ph></ch><ch id="2"><ph>6</ph></ch></status>', 'xml')
  expect(record?.find('/status/ch/0/ph/#text')).toBe('7.25')
  expect(record?.find('/status/ch/1/@id')).toBe('2')
  const laughs = '<!DOCTYPE s [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]><s><ph>&b;</ph></s>'
  expect(read(laughs, 'xml')[0]?.find('/s/ph')).toBe('&b;')
  for (const bad of ['', '<a><b></a>', 'hello', '<a>']) expect(() => read(bad, 'xml')).toThrow(PayloadProblem)
})

it('times are seconds, thousandths, millionths or billionths since 1970, or ISO 8601 with a zone', () => {
  const at = (t: unknown) => read(JSON.stringify([{ t }]), 'json', '/t')[0]?.at
  for (const t of [1780308000, 1780308000000, '1780308000000000', '1780308000000000000', '2026-06-01T10:00:00Z'])
    expect(at(t)).toBe(1780308000000)
  expect(at('2026-06-01T12:00:00.250+0200')).toBe(1780308000250)
  expect(() => at('2026-06-01T12:00:00')).toThrow('has no zone')
  expect(() => at('yesterday')).toThrow('is none')
})

it.each([
  ['7.25', 'number'],
  [' 24,6 °C', 'number'],
  ['{"ph":7}', 'json'],
  ['[{"n":"ph","v":7}]', 'senml'],
  ['[1,2]', 'json'],
  ['<a/>', 'xml'],
  ['tank ph=7', 'line'],
  ['Time,pH\n1,7', 'csv'],
] as const)('%s is seen to be %s', (text, format) => {
  expect(formatOf(text)).toBe(format)
})

it('whatever comes is read, or refused in a sentence', () => {
  const formats: MessageFormat[] = ['number', 'json', 'senml', 'xml', 'csv', 'line']
  fc.assert(
    fc.property(fc.string({ maxLength: 200 }), fc.constantFrom(...formats), (text, format) => {
      try {
        for (const record of read(text, format)) {
          for (const { field } of record.leaves()) record.find(field)
          const value = foundOf(record.find('') ?? null).value
          expect(value === null || Number.isFinite(value)).toBe(true)
        }
      } catch (error) {
        expect(error).toBeInstanceOf(PayloadProblem)
      }
    }),
    { numRuns: 500 },
  )
})
