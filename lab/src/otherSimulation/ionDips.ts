import type { RandomStream } from '../../../core/src/statistics/random.ts'
import type { Dip } from './dipOf.ts'
import { creepOf, logBetween } from './draw.ts'
import { Layer } from './layer.ts'
import { ReadOut } from './readOut.ts'

/**
 * Readings of an electrode with a membrane for one ion, mV, that goes from one standard into the next: the solution
 * diffuses to the membrane, whose surface then exchanges its ions, the slower the thinner the solution (W. E. Morf, The
 * Principles of Ion-Selective Electrodes and of Membrane Transport, 1981, ch. 10, from memory), while another ion that
 * had got in leaves it over minutes; the bridge of the reference fills. Solved step by step, with figures of its own.
 */
export const ION_SHAPES = [
  'sound',
  'old membrane',
  'another ion in it',
  'slow junction',
  'thin solution',
  'carried over',
  'slow exchange',
  'noisy',
  'slow refresh',
  'slow line',
  'bubble',
  'lagging temperature',
  'creeping on',
  'creeping back',
  'creeping slowly',
] as const
export type IonShape = (typeof ION_SHAPES)[number]

/** What stays the same of an electrode from visit to visit, but for little; times in s, potentials in mV. */
export interface IonNature {
  shape: IonShape
  /** mV a decade, with its sign. */
  slope: number
  layer: number
  quick: number
  slowShare: number
  slowTime: number
  /** What another ion in the membrane adds at first, and the time in which it leaves. */
  foreign: number
  foreignTime: number
  junction: number
  junctionTime: number
}

export function drawIon(shape: IonShape, random: RandomStream): IonNature {
  const log = logBetween(random)
  const is = (...shapes: IonShape[]) => shapes.includes(shape)
  const sign = () => (random.uniform() < 0.5 ? -1 : 1)
  return {
    shape,
    slope: sign() * random.between(53, 59),
    layer: log(2, 8),
    quick: is('old membrane') ? log(6, 20) : log(1.5, 6),
    slowShare: is('old membrane') ? random.between(0.06, 0.14) : random.between(0.01, 0.04),
    slowTime: is('old membrane') ? log(60, 160) : log(25, 90),
    foreign: sign() * (is('another ion in it') ? random.between(1.5, 5) : log(0.05, 0.6)),
    foreignTime: log(50, 200),
    junction: sign() * (is('slow junction') ? random.between(1.5, 4) : log(0.08, 0.8)),
    junctionTime: is('slow junction') ? log(150, 500) : log(40, 220),
  }
}

/** The same electrode on another day. */
export function ionNextTime(nature: IonNature, random: RandomStream): IonNature {
  const about = (value: number) => value * Math.exp(0.13 * random.normal())
  const sign = random.uniform() < 0.5 ? -1 : 1
  return {
    ...nature,
    layer: about(nature.layer),
    quick: about(nature.quick),
    slowShare: about(nature.slowShare),
    slowTime: about(nature.slowTime),
    foreign: about(nature.foreign),
    junction: sign * about(nature.junction),
    junctionTime: about(nature.junctionTime),
  }
}

const STEP = 0.25
const SECONDS = 900

/** One dip: from one concentration into another, up to a quarter of an hour. */
export function ionDip(nature: IonNature, random: RandomStream): Dip<IonShape> {
  const { shape } = nature
  const log = logBetween(random)
  const is = (...shapes: IonShape[]) => shapes.includes(shape)
  const sign = () => (random.uniform() < 0.5 ? -1 : 1)
  // Decades of mol/L.
  const before = random.between(-4, -1.5)
  let after = before
  while (Math.abs(after - before) < 0.4)
    after = is('thin solution') ? random.between(-5, -4.2) : random.between(-4, -1.5)
  const half = is('slow exchange') ? random.between(5, 13) : random.between(0.3, 3)
  const width = half * random.between(0.12, 0.3)
  const carried = is('carried over') ? random.between(0.01, 0.05) : random.between(0, 0.003)
  const carriedTime = log(25, 90)
  const celsius = 25 + random.between(-3, 3)
  const lag = is('lagging temperature') ? sign() * random.between(2, 7) : sign() * random.between(0, 0.5)
  const lagTime = log(22, 80)
  const thermometerTime = log(4, 25)
  let thermometer = celsius + lag
  const creep = creepOf(
    shape,
    { fast: [0.65, 1.8], slow: [0.12, 0.45], towards: Math.sign((after - before) * nature.slope) },
    random,
  )
  const device = {
    white: is('noisy') ? random.between(0.4, 1.1) : log(0.03, 0.2),
    wanderSd: log(0.015, 0.12),
    wanderTime: log(3, 18),
    step: 0.1,
    refresh: is('slow refresh') ? random.between(2, 6) : 0,
    every: is('slow line') ? random.between(1.5, 4.8) : random.uniform() < 0.4 ? 1 : 0.5,
    smoothing: random.uniform() < 0.3 ? random.between(0.5, 3) : 0,
  }
  const bubbleFrom = random.between(15, 80)
  const bubble = is('bubble')
    ? { from: bubbleFrom, to: bubbleFrom + random.between(3, 25), size: sign() * random.between(2, 12) }
    : null
  const display = new ReadOut(device, random, STEP)
  const water = new Layer(nature.layer)
  const plug = new Layer(nature.junctionTime)
  /** mV at a concentration: the slope goes with absolute temperature. */
  const potential = (decades: number, kelvins: number) => nature.slope * (1 + kelvins / 298.15) * (decades + 3)
  const thinner = 10 ** (-0.25 * Math.min(0, after + 3.5))
  let [quick, slow] = [potential(before, lag), potential(before, lag)]
  const count = Math.round(SECONDS / STEP)
  for (let k = 0; k <= count; k++) {
    const t = k * STEP
    const exchanged = 1 / (1 + Math.exp((half - t) / width))
    const body = celsius + lag * Math.exp(-t / lagTime)
    thermometer += (STEP / (STEP + thermometerTime)) * (body - thermometer)
    const surface = water.step(exchanged * (1 - carried * Math.exp(-t / carriedTime)), STEP)
    const wanted = potential(Math.log10(10 ** before + (10 ** after - 10 ** before) * surface), body - 25)
    quick += (STEP / (STEP + nature.quick * thinner)) * (wanted - quick)
    slow += (STEP / (STEP + nature.slowTime * thinner)) * (wanted - slow)
    const filled = plug.step(exchanged, STEP)
    let value = (1 - nature.slowShare) * quick + nature.slowShare * slow + nature.junction * (1 - filled)
    value += nature.foreign * Math.exp(-t / nature.foreignTime) + (creep * t) / 60
    if (bubble && t > bubble.from && t < bubble.to) value += bubble.size
    display.push(t, value, thermometer)
  }
  return { shape, samples: display.samples, end: potential(after, celsius - 25), creep }
}
