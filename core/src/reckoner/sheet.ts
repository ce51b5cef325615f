import type { UnitSymbol } from '../quantities/quantityText.ts'
import type { Sentence } from '../quantities/sentence.ts'

/** A number that the operator puts in, or reads off. */
export interface NumberField {
  id: string
  label: string
  unit: UnitSymbol
  /** Decimals with which it is shown; `figures` instead for what spans decades. */
  decimals?: number
  figures?: number
  hint?: string
}

export interface GivenNumber extends NumberField {
  kind: 'number'
  initial: number
  /** Whether it matters for what else is given; always unless said. */
  matters?: (given: Given) => boolean
}

export interface GivenChoice {
  kind: 'choice'
  id: string
  label: string
  options: readonly { value: string; label: string }[]
  initial: string
}

export type GivenField = GivenNumber | GivenChoice

/** Values of the given fields by their id: numbers of number fields, codes of choices. */
export class Given {
  constructor(private readonly values: Readonly<Record<string, number | string>>) {}

  number(id: string): number {
    const value = this.values[id]
    if (typeof value !== 'number') throw new RangeError(`There is no number "${id}" on this sheet.`)
    return value
  }

  choice<T extends string = string>(id: string): T {
    const value = this.values[id]
    if (typeof value !== 'string') throw new RangeError(`There is no choice "${id}" on this sheet.`)
    return value as T
  }
}

/**
 * One of several quantities that hang together: all follow from one state (a salinity, a pH), and each gives it back.
 * Whichever is entered is held; the others follow.
 */
export interface LinkedField extends NumberField {
  toState(value: number, given: Given): number
  fromState(state: number, given: Given): number
  /** Half-width of the 95 % interval of what is read off, in the field's unit; null where nobody states one. */
  uncertainty?: (state: number, given: Given) => number | null
}

export interface Output extends NumberField {
  of(given: Given, state: number): number
  uncertainty?: (state: number, given: Given) => number | null
}

export interface Curve {
  xLabel: string
  yLabel: string
  points: readonly [number, number][]
  at: readonly [number, number]
}

/** One thing to work out. */
export interface Sheet {
  id: string
  group: 'pH' | 'Conductivity' | 'ORP' | 'Ions' | 'Solutions' | 'Temperature'
  title: string
  /** What it answers, in one sentence. */
  question: string
  given: readonly GivenField[]
  linked: readonly LinkedField[]
  /** Which linked field is held at first, and its value. */
  start?: { held: string; value: number }
  outputs: readonly Output[]
  /** The formula, and the formula with the numbers put in. */
  working(given: Given, state: number): string[]
  /** Sentences that explain the result, or warn. */
  remarks?: (given: Given, state: number) => readonly Sentence[]
  source: string
  range: string
  curve?: (given: Given, state: number) => Curve
}

export interface SheetResult {
  linked: { field: LinkedField; value: number; uncertainty: number | null }[]
  outputs: { field: Output; value: number; uncertainty: number | null }[]
  working: string[]
  remarks: readonly Sentence[]
  curve: Curve | null
}

/**
 * Works a sheet out.
 * @param held the linked field that is held and its value; null for a sheet without linked fields
 * @throws OutOfRange with the sentence for the field; RangeError for combinations that have no answer
 */
export function computeSheet(
  sheet: Sheet,
  values: Readonly<Record<string, number | string>>,
  held: { id: string; value: number } | null,
): SheetResult {
  const given = new Given(values)
  let state = 0
  if (sheet.linked.length > 0) {
    const field = sheet.linked.find((f) => f.id === held?.id)
    if (!field || !held) throw new RangeError('One of the linked fields must be held.')
    state = field.toState(held.value, given)
  }
  const sure = (field: LinkedField | Output) => field.uncertainty?.(state, given) ?? null
  return {
    linked: sheet.linked.map((field) => ({
      field,
      value: field.id === held?.id ? held.value : field.fromState(state, given),
      uncertainty: sure(field),
    })),
    outputs: sheet.outputs.map((field) => ({ field, value: field.of(given, state), uncertainty: sure(field) })),
    working: sheet.working(given, state),
    remarks: sheet.remarks?.(given, state) ?? [],
    curve: sheet.curve?.(given, state) ?? null,
  }
}

/** A number as it is shown: its decimals or figures, with a real minus. */
export function show(value: number, field: Pick<NumberField, 'decimals' | 'figures'> = { figures: 5 }): string {
  const text = field.decimals !== undefined ? value.toFixed(field.decimals) : inFigures(value, field.figures ?? 5)
  return (Number(text) === 0 ? text.replace('-', '') : text).replace('-', '\u2212')
}

function inFigures(value: number, figures: number): string {
  if (value === 0) return '0'
  const size = Math.abs(value)
  if (size < 1e-4 || size >= 1e7) return value.toExponential(figures - 1)
  const decimals = Math.max(0, figures - 1 - Math.floor(Math.log10(size)))
  return value.toFixed(decimals)
}

/** Points of a curve over a range of x; places where there is no answer are left out. */
export function trace(low: number, high: number, y: (x: number) => number, count = 60): [number, number][] {
  return Array.from({ length: count + 1 }, (_, i) => low + (i * (high - low)) / count).flatMap((x) => {
    try {
      return [[x, y(x)] as [number, number]]
    } catch {
      return []
    }
  })
}

export const temperatureField = (initial = 25, label = 'Temperature'): GivenNumber => ({
  kind: 'number',
  id: 'temperature',
  label,
  unit: '°C',
  decimals: 1,
  initial,
})
