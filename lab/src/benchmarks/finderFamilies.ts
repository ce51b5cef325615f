import { randomStream } from '@frustum/core'
import { BYTE_ORDERS, type RegisterPlace, wordsOfType } from '@frustum/server/protocols'
import {
  type Found,
  Hypotheses,
  type Hypothesis,
  type Look,
  rank,
} from '../../../server/src/devices/protocols/modbus/finder/candidates.ts'
import { converted } from '../../../server/src/devices/protocols/modbus/finder/conversions.ts'
import { RegisterLog } from '../../../server/src/devices/protocols/modbus/finder/registerLog.ts'
import { encodeRegisters } from '../../../server/src/devices/protocols/modbus/registers.ts'

type Random = ReturnType<typeof randomStream>
const pick = <T>(random: Random, of: readonly T[]): T => of[Math.floor(random.uniform() * of.length)] as T
const TYPES = ['int16', 'uint16', 'int32', 'uint32', 'float32', 'float64', 'bcd16', 'bcd32'] as const

/** How a number is written somewhere in a map: what stands there is the number less offset, over scale. */
interface Written extends Pick<RegisterPlace, 'address' | 'type' | 'order'> {
  scale: number
  offset: number
  value: (seconds: number) => number
}

const isFloat = (type: RegisterPlace['type']) => type.startsWith('float')

/** Traits of devices; what is looked for is a pH, or a temperature where its unit is the trait. */
export const FAMILIES = {
  plain: {},
  /** A slow mean, a coarse copy, what it reads uncorrected: they move along. */
  twins: { twins: true },
  kelvin: { temperature: true, way: { type: 'uint16', scale: 0.1, offset: -273.15 } },
  fahrenheit: { temperature: true, way: { type: 'int16', scale: 0.1 / 1.8, offset: -32 / 1.8 } },
  /** 4 to 20 mA as counts. */
  counts: { way: { type: 'uint16', scale: 14 / 27_648, offset: 0 } },
  microamperes: { way: { type: 'uint16', scale: 14 / 16_000, offset: -3.5 } },
  offset: { way: { type: 'uint16', scale: 0.01, offset: -50 } },
  /** Decimal digits of several channels behind one empty high word. */
  decimal: { way: { type: 'bcd32', scale: 0.01, offset: 0 } },
  noisy: { noise: 0.02 },
  /** Renewed every five seconds. */
  slow: { everySeconds: 5 },
  /** The display follows with a filter of eight seconds. */
  filtered: { lagSeconds: 8 },
} as const satisfies Record<string, Family>
export type FamilyName = keyof typeof FAMILIES
interface Family {
  twins?: boolean
  temperature?: boolean
  way?: Pick<Written, 'type' | 'scale' | 'offset'>
  noise?: number
  everySeconds?: number
  lagSeconds?: number
}

/**
 * A device with 200 registers, as makers fill them: a few channels in one way of writing, limits, twins and set points
 * near them; dates, counters and serial numbers between. It stands in the tank, then in one buffer after the other.
 */
function device(random: Random, family: Family) {
  const type = family.way?.type ?? pick(random, TYPES)
  const most = { bcd16: 2, int16: 3, uint16: 3 }[type as string] ?? 4
  const decimals = isFloat(type) ? 0 : Math.min(most, 2 + Math.floor(3 * random.uniform()))
  const house = {
    type,
    order: family.way ? ('ABCD' as const) : pick(random, BYTE_ORDERS),
    scale: 10 ** -decimals,
    offset: 0,
    ...family.way,
  }
  const tank = 6.5 + 2 * random.uniform()
  const first = random.uniform() < 0.5 ? 4.01 : 10.05
  const baths = [tank, first, 14.06 - first, tank, first, 14.06 - first]
  /** Of a bath a minute, each settled into with a time constant. */
  const course = (of: (bath: number) => number, seconds: number) => (t: number) => {
    let value = of(0)
    for (let bath = 1; bath < baths.length; bath++)
      if (t > 60 * bath) value += (of(bath) - value) * (1 - Math.exp(-(t - 60 * bath) / seconds))
    return value
  }
  const ph = course((bath) => baths[bath] as number, 8)
  const warmth = course((bath) => 24.6 - 4.5 * (bath % 3), 14)
  const jitter = (t: number, size: number) => size * Math.sin(1e4 * Math.sin(t))
  const noise = family.noise ?? 0
  const exactPh = (t: number) => ph(t) + 0.004 * Math.sin(t / 7) + jitter(t, noise)
  const celsius = (t: number) => warmth(t) + 0.02 * Math.sin(t / 9) + jitter(t + 0.5, noise)
  const sought = family.temperature ? celsius : exactPh
  const coarse = { ...house, scale: Math.max(house.scale, 0.1) }
  const other = family.temperature ? { scale: 0.01, offset: 0, type: 'int16' as const } : {}
  const values: { value: (t: number) => number; as?: Partial<Written> }[] = [
    { value: exactPh, as: other },
    { value: celsius, as: family.temperature ? {} : { scale: coarse.scale } },
    { value: (t) => -58.2 * (exactPh(t) - 7) + 3.1, as: { ...other, scale: coarse.scale } },
    ...(family.twins
      ? [
          { value: (t: number) => ph(t - 25) },
          { value: (t: number) => Math.round(10 * ph(t)) / 10 },
          { value: (t: number) => ph(t) + 0.09 },
        ]
      : []),
    { value: () => tank + 0.01 },
    { value: () => 8.5 },
    { value: () => 6 },
    { value: (t) => 7 + 0.3 * Math.sin(t / 50) },
  ]
  const words = new Map<number, (t: number) => number>()
  const written: Written[] = []
  const base = pick(random, [0, 0, 100, 1000, 4000])
  let address = base
  for (const { value, as } of values.sort(() => random.uniform() - 0.5)) {
    address += Math.floor(12 * random.uniform())
    const one: Written = { address, ...house, value, ...as }
    const length = wordsOfType(one.type)
    written.push(one)
    for (let i = 0; i < length; i++) {
      words.set(address + i, (t) => {
        const then = family.everySeconds ? family.everySeconds * Math.floor(t / family.everySeconds) : t
        const raw = (value(then) - one.offset) / one.scale
        const v = isFloat(one.type) ? raw : Math.round(raw)
        const fits = one.type.startsWith('u') || one.type.startsWith('bcd') ? Math.max(0, v) : v
        return encodeRegisters(fits, one).readUInt16BE(2 * i)
      })
    }
    address += length
  }
  const kinds = ['zero', 'limit', 'counter', 'noise', 'text', 'flags'] as const
  for (let a = base; a < base + 200; a++) {
    if (words.has(a)) continue
    const kind = pick(random, kinds)
    const fixed = Math.floor(65536 * random.uniform())
    const small = Math.floor(1500 * random.uniform())
    words.set(a, (t) => {
      if (kind === 'zero') return 0
      if (kind === 'limit') return small
      if (kind === 'counter') return Math.floor(fixed + t) & 0xffff
      if (kind === 'noise') return Math.floor(700 + 40 * Math.sin(a + t * 1.7))
      return kind === 'flags' ? fixed & 0x0f0f : fixed
    })
  }
  const step = family.temperature ? 0.1 : 0.01
  const lag = family.lagSeconds ?? 0
  let display = sought(0)
  const displayed: number[] = []
  for (let t = 0; t < 60 * baths.length; t++) {
    display += (sought(t) - display) / (1 + lag)
    displayed.push(Math.round(display / step) * step)
  }
  return {
    words,
    step,
    displayed: (t: number) => displayed[Math.max(0, Math.floor(t))] as number,
    /** What its register holds. */
    sought: (t: number) => {
      const one = written.find((w) => w.value === sought) as Written
      const then = family.everySeconds ? family.everySeconds * Math.floor(t / family.everySeconds) : t
      const raw = (sought(then) - one.offset) / one.scale
      return (isFloat(one.type) ? raw : Math.round(raw)) * one.scale + one.offset
    },
  }
}

/** Whether a candidate reads what is sought at any time, whichever of the ways to read it that is. */
function readsAs(
  { type, order, address, scale, offset }: Hypothesis,
  { words, sought, step }: ReturnType<typeof device>,
): boolean {
  for (let t = 3; t < 350; t += 11.3) {
    const log = new RegisterLog()
    for (let i = 0; i < wordsOfType(type); i++) log.add('holding', address + i, [words.get(address + i)?.(t) ?? 0], t)
    const raw = log.near({ table: 'holding', address, type, order }, t)
    if (raw === null || Math.abs(converted(raw, { scale, offset }) - sought(t)) > 0.6 * step) return false
  }
  return true
}

/**
 * The search in a device as its finder does it: all is read near each look; in between, once a second, all where the device
 * gives many registers at a time, else what is likeliest.
 * @param wrong index of a look that is misread: late while it moves, or by a digit
 */
async function searched(
  seed: number,
  family: Family,
  looks: number,
  wrong?: number,
): Promise<{ found: Found[]; ranks: number[]; listed: boolean[] }> {
  const random = randomStream(seed)
  const made = device(random, family)
  const { words, step, displayed } = made
  const givesMany = random.uniform() < 0.75
  const log = new RegisterLog()
  const read = (t: number, addresses: Iterable<number>) => {
    for (const a of addresses) log.add('holding', a, [(words.get(a) as (t: number) => number)(t)], 1000 * t)
  }
  const temperature = family.temperature ? '°C' : null
  const done: Look[] = []
  const found: Found[] = []
  let watched: number[] = []
  let watchedTo = 0
  for (let n = 0; n < looks; n++) {
    // Read off some seconds before it is entered, while it settles; the first one in the tank.
    const at = Math.floor(60 * n + (n === 0 ? 30 : 40 + 15 * random.uniform()))
    for (let t = watchedTo; t < at; t++) read(t + 0.2, watched)
    watchedTo = at + 2
    const isLate = n === wrong && random.uniform() < 0.5
    const off = n === wrong && !isLate ? step * 10 ** Math.floor(3 * random.uniform()) : 0
    const value = displayed(isLate ? 60 * n + 4 : at - 6 * random.uniform()) + off
    done.push({ at: 1000 * at, shown: { value: Number(value.toFixed(3)), step, unit: '' } })
    read(at + 1, words.keys())
    const hypotheses = new Hypotheses(log, done, temperature)
    for (const place of log.places()) hypotheses.consider(place)
    found.push(await rank(log, hypotheses, done))
    const near = found.at(-1)?.candidates.slice(0, 24) ?? []
    watched = givesMany
      ? [...words.keys()]
      : [
          ...new Set(
            near
              .flatMap((c) => Array.from({ length: wordsOfType(c.type) }, (_, i) => c.address + i))
              .filter((a) => words.has(a)),
          ),
        ]
  }
  const ranks = found.map(({ candidates }) => candidates.findIndex((c) => readsAs(c, made)))
  // A number whose high word was 0 so far is listed with the one that leaves it out.
  const listed = found.map(
    ({ candidates }, i) => ranks[i] !== -1 || candidates.some((c) => c.same.some((s) => readsAs(s, made))),
  )
  return { found, ranks, listed }
}

export interface FamilyFigures {
  /** Shares of devices in which the right register comes first after two looks, and after six of which one was wrong. */
  afterTwo: number
  afterSix: number
  /** Share in which it stays in the list from the second look on. */
  listed: number
  /** Another was called certain. */
  wronglyCertain: { seed: number; look: number }[]
  /** Devices that missed one of the above. */
  missed: { seed: number; ranks: number[]; isListed: boolean }[]
}

/** The search in so many random devices of a family. */
export async function familyFigures(family: FamilyName, devices: number): Promise<FamilyFigures> {
  const all: { seed: number; ranks: number[]; isListed: boolean }[] = []
  const wronglyCertain: FamilyFigures['wronglyCertain'] = []
  for (let seed = 1; seed <= devices; seed++) {
    const { found, ranks, listed } = await searched(seed, FAMILIES[family], 6, 2 + (seed % 3))
    all.push({ seed, ranks, isListed: listed.slice(1).every((l) => l) })
    for (const [look, f] of found.entries()) if (f.certain && ranks[look] !== 0) wronglyCertain.push({ seed, look })
  }
  const share = (isSo: (one: (typeof all)[number]) => boolean) => all.filter(isSo).length / devices
  return {
    afterTwo: share(({ ranks }) => ranks[1] === 0),
    afterSix: share(({ ranks }) => ranks[5] === 0),
    listed: share((one) => one.isListed),
    wronglyCertain,
    missed: all.filter(({ ranks, isListed }) => ranks[1] !== 0 || ranks[5] !== 0 || !isListed),
  }
}

/** The search in so many devices of each family. */
export async function finderRows(devices: number) {
  const rows = []
  for (const family of Object.keys(FAMILIES) as FamilyName[]) {
    const { afterTwo, afterSix, listed, wronglyCertain } = await familyFigures(family, devices)
    const percent = (share: number) => `${(100 * share).toFixed(1)} %`
    rows.push({
      what: `finder, ${devices} ${family} devices: right first after two and six looks, listed, wrongly certain`,
      measured: `${percent(afterTwo)}, ${percent(afterSix)}, ${percent(listed)}, ${wronglyCertain.length}`,
      wanted: 'at least 97 % and 97 %, 100 %, none',
      ok: Math.min(afterTwo, afterSix) >= 0.97 && listed === 1 && wronglyCertain.length === 0,
    })
  }
  return rows
}
