import { type ByteOrder, type RegisterPlace, wordsOfType } from './place.ts'

/** Registers as they come, each two bytes with the high one first, by the Modbus application protocol. */

const WORD = 2

/** The bytes of a number with its highest first. */
function inOrder(bytes: Uint8Array, order: ByteOrder): Uint8Array {
  const words = bytes.length / WORD
  const lowFirst = order === 'CDAB' || order === 'DCBA'
  const swapped = order === 'BADC' || order === 'DCBA'
  const ordered = new Uint8Array(bytes.length)
  for (let i = 0; i < words; i++) {
    const from = WORD * (lowFirst ? words - 1 - i : i)
    ordered[WORD * i] = bytes[from + (swapped ? 1 : 0)] as number
    ordered[WORD * i + 1] = bytes[from + (swapped ? 0 : 1)] as number
  }
  return ordered
}

/** Four bits a decimal digit; null where one of them is none. */
function fromBcd(bytes: Uint8Array): number | null {
  let value = 0
  for (const byte of bytes) {
    const [high, low] = [byte >> 4, byte & 15]
    if (high > 9 || low > 9) return null
    value = 100 * value + 10 * high + low
  }
  return value
}

function numberIn(ordered: Uint8Array, { type, bit }: Pick<RegisterPlace, 'type' | 'bit'>): number | null {
  const view = new DataView(ordered.buffer)
  switch (type) {
    case 'int16':
      return view.getInt16(0)
    case 'uint16':
      return view.getUint16(0)
    case 'int32':
      return view.getInt32(0)
    case 'uint32':
      return view.getUint32(0)
    case 'float32':
      return view.getFloat32(0)
    case 'float64':
      return view.getFloat64(0)
    case 'bcd16':
    case 'bcd32':
      return fromBcd(ordered)
    case 'bit':
      return (view.getUint16(0) >> (bit ?? 0)) & 1
  }
}

/**
 * The number that stands in registers; null where the bits are none.
 * @param bytes those of the number, as they came
 */
export function decodeRegisters(
  bytes: Uint8Array,
  place: Pick<RegisterPlace, 'type' | 'order' | 'bit'>,
): number | null {
  const value = numberIn(inOrder(bytes, place.order), place)
  return value !== null && Number.isFinite(value) ? value : null
}

/** The same bits as a whole number without a sign, as a manual names those that are no reading: 0x8000. */
export function bitsOf(bytes: Uint8Array, order: ByteOrder): bigint {
  return inOrder(bytes, order).reduce((bits, byte) => (bits << 8n) | BigInt(byte), 0n)
}

const WHOLE: Readonly<Record<string, readonly [number, number]>> = {
  int16: [-32768, 32767],
  uint16: [0, 65535],
  int32: [-2147483648, 2147483647],
  uint32: [0, 4294967295],
  bcd16: [0, 9999],
  bcd32: [0, 99999999],
  bit: [0, 1],
}

/**
 * The bytes to write for a number; one that is none is written as such where the type has it.
 * @throws RangeError where the type cannot hold it
 */
export function encodeRegisters(value: number, { type, order }: Pick<RegisterPlace, 'type' | 'order'>): Buffer {
  const bytes = new Uint8Array(WORD * wordsOfType(type))
  const view = new DataView(bytes.buffer)
  const limits = WHOLE[type]
  const whole = Math.round(value)
  if (limits && !(whole >= limits[0] && whole <= limits[1])) {
    throw new RangeError(`${value} does not fit into ${type}.`)
  }
  switch (type) {
    case 'int16':
      view.setInt16(0, whole)
      break
    case 'uint16':
    case 'bit':
      view.setUint16(0, whole)
      break
    case 'int32':
      view.setInt32(0, whole)
      break
    case 'uint32':
      view.setUint32(0, whole)
      break
    case 'float32':
      view.setFloat32(0, value)
      break
    case 'float64':
      view.setFloat64(0, value)
      break
    case 'bcd16':
    case 'bcd32': {
      const digits = String(whole).padStart(2 * bytes.length, '0')
      for (let i = 0; i < bytes.length; i++) bytes[i] = Number.parseInt(digits.slice(2 * i, 2 * i + 2), 16)
      break
    }
  }
  // Each order undoes itself.
  return Buffer.from(inOrder(bytes, order))
}
