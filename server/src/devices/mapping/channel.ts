import type { Channel, StatusChannel } from '@frustum/contract'
import { inUnit } from './units.ts'

/** What stands at a place of a device: the number, and the bits that it was made of where it came in registers. */
export interface RawNumber {
  value: number | null
  bits?: bigint
}

/** What became of it: a number in the unit that is wanted, or why there is none. */
export type ChannelReading = { value: number } | { missing: string }

/** Failure signals of a current loop, mA; NAMUR NE 43: up to 3.6 and from 21 on it is no measurement. */
const CURRENT_LIMITS = { low: 3.6, high: 21 } as const
const ZERO_MA = 4
const SPAN_MA = 16

const figure = (value: number) => String(Number(value.toPrecision(6)))

/**
 * Makes a reading of a raw number: what the device means by it, within what it can be.
 * @param wanted unit in which it is wanted
 */
export function readChannel(raw: RawNumber, channel: Channel, wanted: string): ChannelReading {
  const { scale, offset, unit, low, high, none = [], span } = channel
  if (raw.value === null) return { missing: 'holds no number' }
  if (none.some((text) => isThat(raw, text))) return { missing: `says that it has none (${figure(raw.value)})` }
  const number = scaled(raw.value, scale) + offset
  let [value, inThis] = [number, unit]
  if (span) {
    const current = inUnit(number, unit === '' ? 'mA' : unit, 'mA')
    if (current === null) return { missing: `is no current in ${unit}` }
    if (current < CURRENT_LIMITS.low) return { missing: `signals a fault: ${figure(current)} mA, below 3.6` }
    if (current > CURRENT_LIMITS.high) return { missing: `signals a fault: ${figure(current)} mA, above 21` }
    value = span.at4 + ((current - ZERO_MA) / SPAN_MA) * (span.at20 - span.at4)
    inThis = span.unit
  }
  if (!Number.isFinite(value)) return { missing: 'is too large a number' }
  if (low !== undefined && value < low) return { missing: `is ${figure(value)}, below ${figure(low)}` }
  if (high !== undefined && value > high) return { missing: `is ${figure(value)}, above ${figure(high)}` }
  const converted = inUnit(value, inThis, wanted)
  return converted === null ? { missing: `comes in ${inThis}, and ${wanted} is wanted` } : { value: converted }
}

/** A hundredth of 702 is 7.02, which 702 × 0.01 is not quite. */
function scaled(raw: number, scale: number): number {
  const parts = Math.round(1 / scale)
  return Math.abs(scale) < 1 && Math.abs(parts * scale - 1) < 1e-9 ? raw / parts : raw * scale
}

/** Whether a raw number is one that a manual names: 9999, -32768, 0x8000. */
function isThat({ value, bits }: RawNumber, text: string): boolean {
  if (/^0x[0-9a-f]{1,16}$/i.test(text)) return bits === undefined ? value === Number(text) : bits === BigInt(text)
  return text.trim() !== '' && value === Number(text)
}

/** What to write so that the device holds a value. @throws RangeError outside its limits */
export function rawFor(value: number, { scale, offset, low, high, unit }: Channel, given: string): number {
  const own = unit === '' ? value : inverse(value, given, unit)
  if (low !== undefined && own < low)
    throw new RangeError(`${figure(own)} is below ${figure(low)}, the lowest it takes.`)
  if (high !== undefined && own > high)
    throw new RangeError(`${figure(own)} is above ${figure(high)}, the highest it takes.`)
  return (own - offset) / scale
}

function inverse(value: number, given: string, unit: string): number {
  const one = inUnit(1, unit, given)
  const zero = inUnit(0, unit, given)
  if (one === null || zero === null) throw new RangeError(`It is written in ${unit}, and is given in ${given}.`)
  return (value - zero) / (one - zero)
}

/** What the device says is wrong with itself; null where nothing is. */
export function faultOf(value: string | number | boolean | null, status: StatusChannel): string | null {
  if (value === null) return 'its status cannot be read'
  const bit = typeof value === 'number' ? status.bits?.find((b) => Math.floor(value / 2 ** b) % 2 === 1) : undefined
  if (bit !== undefined) return `its status bit ${bit} is set`
  const said = status.values?.find((v) => v === String(value))
  return said === undefined ? null : `its status is ${said}`
}
