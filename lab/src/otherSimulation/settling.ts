import type { RandomStream } from '../../../core/src/statistics/random.ts'
import type { Dip } from './dipOf.ts'
import { logBetween } from './draw.ts'
import { Layer } from './layer.ts'
import { ReadOut } from './readOut.ts'

/**
 * Readings of a pH electrode that goes from one solution into the next, from what happens to it: the beaker is
 * exchanged, the new solution diffuses through the layer of water and film before the glass, the hydrated glass follows
 * with a spread of times, the junction fills with the new solution at its own pace, the body takes on the temperature.
 * Everything is solved step by step from its differential equation (implicit Euler in time, finite volumes in a layer);
 * no shape of a tail is written down. Apart from the other simulations, with equations and figures of its own.
 */
export const SETTLING_SHAPES = [
  'sound',
  'aged glass',
  'film',
  'slow junction',
  'strong slow tail',
  'carried over',
  'slow exchange',
  'noisy',
  'wandering',
  'coarse display',
  'slow refresh',
  'slow line',
  'bubble',
  'lagging temperature',
  'creeping on',
  'creeping back',
  'creeping slowly',
] as const
export type SettlingShape = (typeof SETTLING_SHAPES)[number]

/** Shapes of the set that was held back: what nobody looked at while the judge was made. */
export const HELD_BACK_SHAPES = ['through air', 'two films', 'two bubbles', 'stirrer stops'] as const
export type HeldBackShape = (typeof HELD_BACK_SHAPES)[number]

/** mV */
export type OtherTrace = Dip<SettlingShape | HeldBackShape>

/** What stays the same of an electrode from visit to visit, but for little. */
export interface ElectrodeNature {
  shape: OtherTrace['shape']
  /** Time for diffusion through the water at rest before the glass, and through a film, s. */
  layer: number
  film: number
  /** Of the glass: its quick time, the share of slower sites, their middle time and the spread of its logarithm. */
  quick: number
  slowShare: number
  slowTime: number
  spread: number
  /** Potential that the junction takes on in another solution, mV, and its time of diffusion, s. */
  junction: number
  junctionTime: number
  /** How much more of the old solution's capacity counts than of the new one's. */
  capacity: number
}

/** mV per pH at 25 degC, and by how much per kelvin. */
const PER_PH = 59.16
const PER_PH_KELVIN = 0.1984

/** An electrode whose dips have this shape. */
export function drawNature(shape: OtherTrace['shape'], random: RandomStream): ElectrodeNature {
  const log = logBetween(random)
  const is = (...shapes: OtherTrace['shape'][]) => shapes.includes(shape)
  const old = random.uniform() ** 1.5
  const sign = random.uniform() < 0.5 ? -1 : 1
  return {
    shape,
    layer: log(1, 5),
    film: is('film', 'strong slow tail') ? log(10, 45) : is('two films') ? log(20, 60) : log(0.5, 4),
    quick: log(0.4, 1.6),
    slowShare: is('aged glass') ? random.between(0.06, 0.13) : random.between(0.008, 0.03) + 0.04 * old,
    slowTime: is('aged glass') ? log(18, 55) : log(8, 26),
    spread: is('aged glass') ? random.between(0.7, 1.1) : random.between(0.2, 0.7),
    junction:
      sign *
      (is('slow junction') ? random.between(2, 5) : is('strong slow tail') ? random.between(2, 5) : log(0.08, 0.9)),
    junctionTime: is('slow junction', 'strong slow tail') ? log(90, 300) : log(25, 150),
    capacity: is('carried over') ? log(1.5, 4) : log(0.5, 1.6),
  }
}

/** The same electrode on another day. */
export function natureNextTime(nature: ElectrodeNature, random: RandomStream): ElectrodeNature {
  const about = (value: number) => value * Math.exp(0.13 * random.normal())
  const sign = random.uniform() < 0.5 ? -1 : 1
  return {
    ...nature,
    layer: about(nature.layer),
    film: about(nature.film),
    slowShare: about(nature.slowShare),
    slowTime: about(nature.slowTime),
    // Which way the junction goes depends on the pair of solutions, not on the electrode.
    junction: sign * about(nature.junction),
    junctionTime: about(nature.junctionTime),
    capacity: nature.capacity ** sign,
  }
}

const SITES = 9
const STEP = 0.25
const SECONDS = 480

/** One dip: from the solution before, over the exchange of the beaker, up to eight minutes in the new one. */
export function dip(nature: ElectrodeNature, random: RandomStream): OtherTrace {
  const { shape } = nature
  const log = logBetween(random)
  const is = (...shapes: OtherTrace['shape'][]) => shapes.includes(shape)
  const sign = () => (random.uniform() < 0.5 ? -1 : 1)
  const before = random.between(3.8, 10.2)
  let after = before
  while (Math.abs(after - before) < 0.8) after = random.between(3.8, 10.2)

  // The beaker: half exchanged after `half` seconds.
  const half = is('slow exchange') ? random.between(5, 13) : random.between(0.3, 3)
  const width = half * random.between(0.12, 0.3)
  const exchanged = (t: number) => 1 / (1 + Math.exp((half - t) / width))
  const carried = is('carried over') ? random.between(0.02, 0.06) : random.between(0, 0.005)
  const carriedTime = log(25, 90)

  const water = new Layer(nature.layer)
  const film = new Layer(nature.film)
  const second = is('two films') ? new Layer(nature.film * 0.4) : null
  const plug = new Layer(nature.junctionTime)

  // Sites of the glass: evenly spaced in the logarithm, weighed as a normal distribution.
  const sites = Array.from({ length: SITES }, (_, i) => ((i - (SITES - 1) / 2) / ((SITES - 1) / 2)) * 2.2)
  const weights = sites.map((z) => Math.exp(-0.5 * z * z))
  const total = weights.reduce((a, b) => a + b, 0)
  const potential = (pH: number, celsius: number) => (7 - pH) * (PER_PH + PER_PH_KELVIN * (celsius - 25))
  const lag = is('lagging temperature') ? sign() * random.between(2, 7) : sign() * random.between(0, 0.5)
  const lagTime = log(22, 80)
  const thermometerTime = log(4, 25)
  const celsius = 25 + random.between(-3, 3)
  const glass = sites.map(() => potential(before, celsius + lag))
  let quick = potential(before, celsius + lag)
  let thermometer = celsius + lag

  const creep = is('creeping on', 'creeping back')
    ? random.between(0.6, 1.8)
    : is('creeping slowly')
      ? random.between(0.15, 0.5)
      : 0
  const towards = Math.sign(before - after)
  const creepSigned = is('creeping on') ? creep * towards : is('creeping back') ? -creep * towards : creep * sign()

  const device = {
    white: is('noisy') ? random.between(0.4, 1.1) : log(0.03, 0.16),
    wanderSd: is('wandering') ? random.between(0.2, 0.5) : log(0.015, 0.09),
    wanderTime: log(3, 18),
    step: is('coarse display') ? (random.uniform() < 0.5 ? 0.59 : 1) : 0.1,
    refresh: is('slow refresh') ? random.between(2, 6) : 0,
    every: is('slow line') ? random.between(1.5, 4.8) : random.uniform() < 0.4 ? 1 : 0.5,
    smoothing: random.uniform() < 0.3 ? random.between(0.5, 3) : 0,
  }
  const bubbles = Array.from({ length: is('two bubbles') ? 2 : is('bubble') ? 1 : 0 }, (_, i) => {
    const from = random.between(12, 60) + 45 * i
    return {
      from,
      to: from + random.between(3, 22),
      size: sign() * random.between(2.5, 14),
      left: random.between(0, 0.04),
    }
  })
  const air = is('through air') ? random.between(1.5, 4) : 0
  const stirred = is('stirrer stops') ? { at: random.between(30, 70), by: sign() * random.between(0.8, 2.2) } : null

  const display = new ReadOut(device, random, STEP)
  const count = Math.round(SECONDS / STEP)
  for (let k = 0; k <= count; k++) {
    const t = k * STEP
    const body = celsius + lag * Math.exp(-t / lagTime)
    thermometer += (STEP / (STEP + thermometerTime)) * (body - thermometer)
    const bulk = exchanged(t) * (1 - carried * Math.exp(-t / carriedTime))
    const outer = water.step(bulk, STEP)
    const between = second ? second.step(outer, STEP) : outer
    const surface = film.step(between, STEP)
    const old = 1 - surface
    const pH = after + (before - after) * ((nature.capacity * old) / (nature.capacity * old + surface))
    const wanted = potential(pH, body)
    quick += (STEP / (STEP + nature.quick)) * (wanted - quick)
    let slow = 0
    for (let i = 0; i < SITES; i++) {
      const tau = nature.slowTime * Math.exp(nature.spread * (sites[i] as number))
      glass[i] = (glass[i] as number) + (STEP / (STEP + tau)) * (wanted - (glass[i] as number))
      slow += ((weights[i] as number) / total) * (glass[i] as number)
    }
    const filled = plug.step(exchanged(t), STEP)
    let value = (1 - nature.slowShare) * quick + nature.slowShare * slow + nature.junction * (1 - filled)
    value += (creepSigned * t) / 60
    for (const { from, to, size, left } of bubbles) {
      if (t > from && t < to) value += size
      else if (t >= to) value += size * left * Math.exp(-(t - to) / 8)
    }
    if (stirred && t > stirred.at) value += stirred.by * (1 - Math.exp(-(t - stirred.at) / 3)) - stirred.by
    else if (stirred) value -= stirred.by
    if (t < air) value += 30 * random.normal()
    display.push(t, value, thermometer)
  }
  // At rest nothing is left of the old solution, of the junction's start, and of the lag.
  return { shape, samples: display.samples, end: potential(after, celsius), creep: creepSigned }
}
