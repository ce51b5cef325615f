import { readTypedNumber } from '../quantities/typedNumber.ts'
import type { SimulatorRow, SimulatorTraits } from './procedure.ts'

/** More inputs than this are no longer typed on one line. */
const MOST = 12

export type OwnInputs = { ok: true; rows: SimulatorRow[] } | { ok: false; problem: string }

/**
 * Inputs of a simulator beyond the usual ones, as an operator types them, apart by semicolons: an amount that is worked
 * out ("40 Mohm.cm", "1413 uS/cm at 30"), or anything with what the display must show ("9.8 kohm = 25.4").
 * @returns the rows, or which of them cannot be read, in a sentence
 * @example readOwnInputs('9.8 kohm = 25.4', { units: {} }).ok // true
 */
export function readOwnInputs(text: string, { units }: Pick<SimulatorTraits, 'units'>): OwnInputs {
  const rows: SimulatorRow[] = []
  const items = text.split(/[;\n]/).flatMap((item) => item.trim() || [])
  if (items.length > MOST) return { ok: false, problem: `At most ${MOST} inputs of your own.` }
  for (const item of items) {
    const row = withRight(item) ?? amount(item, units)
    if (!row) {
      const known = Object.keys(units).join(', ')
      return {
        ok: false,
        problem: `"${item}" cannot be read: type an amount with its unit${known ? ` (${known})` : ''}, or what is set = what is right.`,
      }
    }
    rows.push(row)
  }
  return { ok: true, rows }
}

/** "what is set = what is right". */
function withRight(item: string): SimulatorRow | null {
  const [label = '', right, ...more] = item.split('=').map((part) => part.trim())
  const shown = readTypedNumber(right ?? '')
  return label !== '' && more.length === 0 && shown.ok ? { label, right: shown.value } : null
}

const AMOUNT = /^([-+\d.,]+)\s*([^\d\s][^\s]*)(?:\s+at\s+([-+\d.,]+)\s*(?:°?\s*C)?)?$/i

function amount(item: string, units: SimulatorTraits['units']): SimulatorRow | null {
  const [, number = '', unit = '', at] = AMOUNT.exec(item) ?? []
  const [value, temperature] = [readTypedNumber(number), at === undefined ? null : readTypedNumber(at)]
  const row = Object.entries(units).find(([name]) => plainUnit(name) === plainUnit(unit))?.[1]
  if (!value.ok || !row || temperature?.ok === false) return null
  return row(value.value, temperature?.value ?? 25)
}

/** Units as people type them: without signs that no keyboard has. */
const plainUnit = (unit: string): string =>
  unit.toLowerCase().replace(/[µμ]/g, 'u').replace(/[Ωω]/g, 'ohm').replace(/[·*.]/g, '')
