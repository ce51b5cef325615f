import { type Leaf, type MessageRecord, PayloadProblem, type Scalar } from './message.ts'

/** RFC 8428, 4.5.3: a smaller time is counted from now, s. */
const RELATIVE_BELOW = 2 ** 28

/** What the registry of SenML units calls differently from what is written here. */
const UNITS: Readonly<Record<string, string>> = { Cel: '°C', K: 'K', V: 'V', 'S/m': 'S/m', A: 'A', pH: '' }

interface Resolved {
  name: string
  at: number | null
  value: Scalar
  unit: string
}

/**
 * A SenML pack (RFC 8428), resolved: base fields hold from where they stand, names and times are put together, and what
 * is of one time is one record.
 * @throws PayloadProblem where it is none
 */
export function senmlRecords(pack: unknown, now: number): MessageRecord[] {
  if (!Array.isArray(pack)) throw new PayloadProblem('What came is no SenML: that is a list of records.')
  const moments = new Map<number | null, Map<string, Resolved>>()
  for (const one of resolved(pack, now)) {
    const moment = moments.get(one.at) ?? new Map<string, Resolved>()
    moments.set(one.at, moment)
    moment.set(one.name, one)
  }
  return [...moments].map(([at, byName]) => ({
    at,
    find: (field) => byName.get(field)?.value,
    leaves: () => [...byName.values()].map(({ name, value, unit }): Leaf => ({ field: name, value, unit })),
  }))
}

function* resolved(pack: readonly unknown[], now: number): Generator<Resolved> {
  const base = { bn: '', bt: null as number | null, bu: '', bv: 0 }
  for (const record of pack) {
    if (typeof record !== 'object' || record === null) throw new PayloadProblem('A record of the SenML is none.')
    const one = record as Record<string, unknown>
    // RFC 8428, 4.4: what one does not understand whose name ends in _ makes the whole pack unreadable.
    const must = Object.keys(one).find((key) => key.endsWith('_'))
    if (must)
      throw new PayloadProblem(`The SenML needs “${must.slice(0, 40)}” to be understood, which is not known here.`)
    base.bn = textOf(one, 'bn') ?? base.bn
    base.bt = numberOf(one, 'bt') ?? base.bt
    base.bu = textOf(one, 'bu') ?? base.bu
    base.bv = numberOf(one, 'bv') ?? base.bv
    const value = recordValue(one, base.bv)
    if (value === undefined) continue
    const seconds = numberOf(one, 't')
    const time = seconds === null && base.bt === null ? null : (base.bt ?? 0) + (seconds ?? 0)
    const unit = textOf(one, 'u') ?? base.bu
    yield {
      name: base.bn + (textOf(one, 'n') ?? ''),
      at: time === null ? null : Math.round((time < RELATIVE_BELOW ? now / 1000 + time : time) * 1000),
      value,
      unit: UNITS[unit] ?? unit,
    }
  }
}

function recordValue(one: Record<string, unknown>, base: number): Scalar | undefined {
  const number = numberOf(one, 'v')
  if (number !== null) return number + base
  const text = textOf(one, 'vs')
  if (text !== null) return text
  return typeof one.vb === 'boolean' ? one.vb : undefined
}

function numberOf(one: Record<string, unknown>, key: string): number | null {
  const value = one[key]
  if (value === undefined) return null
  if (typeof value !== 'number') throw new PayloadProblem(`“${key}” of the SenML is no number.`)
  return value
}

function textOf(one: Record<string, unknown>, key: string): string | null {
  const value = one[key]
  if (value === undefined) return null
  if (typeof value !== 'string') throw new PayloadProblem(`“${key}” of the SenML is no text.`)
  return value
}
