import type { RandomStream } from '../../../core/src/statistics/random.ts'
import type { Dip } from './dipOf.ts'
import { creepOf, logBetween } from './draw.ts'
import { Layer } from './layer.ts'
import { ReadOut } from './readOut.ts'

/**
 * Readings of a conductivity cell that goes from one solution into the next, µS/cm referred to 25 degC by the device: the
 * bore is flushed by stirring, pockets and porous deposits exchange with it (a stirred tank with dead volume; O.
 * Levenspiel, Chemical Reaction Engineering, 3rd ed., ch. 12), the cell takes on the solution's temperature before its
 * thermometer does, bubbles block the field. Solved step by step, with figures of its own (common practice, no source).
 */
export const CELL_SHAPES = [
  'sound',
  'narrow bore',
  'deposit',
  'carried over',
  'slow exchange',
  'noisy',
  'coarse display',
  'slow refresh',
  'slow line',
  'bubble',
  'lagging temperature',
  'creeping on',
  'creeping back',
  'creeping slowly',
] as const
export type CellShape = (typeof CELL_SHAPES)[number]

/** What stays the same of a cell from visit to visit, but for little; times in s. */
export interface CellNature {
  shape: CellShape
  flush: number
  /** Share of the field in pockets, and the time in which they are exchanged. */
  pocketShare: number
  pocketTime: number
  /** Share of the field in a porous deposit, and its time of diffusion. */
  depositShare: number
  depositTime: number
  lagTime: number
  thermometerTime: number
  /** How the conductivity really goes with temperature, and how the device takes it to go, per kelvin. */
  alpha: number
  taken: number
}

export function drawCell(shape: CellShape, random: RandomStream): CellNature {
  const log = logBetween(random)
  const is = (...shapes: CellShape[]) => shapes.includes(shape)
  return {
    shape,
    flush: is('narrow bore') ? log(4, 14) : log(0.5, 4),
    pocketShare: is('narrow bore') ? random.between(0.02, 0.08) : random.between(0, 0.02),
    pocketTime: log(12, 60),
    depositShare: is('deposit') ? random.between(0.03, 0.12) : random.between(0, 0.01),
    depositTime: is('deposit') ? log(30, 150) : log(10, 60),
    lagTime: log(15, 60),
    thermometerTime: log(4, 25),
    alpha: random.between(0.0188, 0.0212),
    taken: 0.02,
  }
}

/** The same cell on another day. */
export function cellNextTime(nature: CellNature, random: RandomStream): CellNature {
  const about = (value: number) => value * Math.exp(0.13 * random.normal())
  return {
    ...nature,
    flush: about(nature.flush),
    pocketShare: about(nature.pocketShare),
    pocketTime: about(nature.pocketTime),
    depositShare: about(nature.depositShare),
    depositTime: about(nature.depositTime),
    lagTime: about(nature.lagTime),
  }
}

/** µS/cm of the standard that all dips go into. */
export const CELL_STANDARD = 1413
const FROM = [0.01, 0.35, 1.7, 9]
const STEP = 0.25
const SECONDS = 360

/** One dip into the standard, from another solution. */
export function cellDip(nature: CellNature, random: RandomStream): Dip<CellShape> {
  const { shape } = nature
  const log = logBetween(random)
  const is = (...shapes: CellShape[]) => shapes.includes(shape)
  const sign = () => (random.uniform() < 0.5 ? -1 : 1)
  // Out of the rinse, the tank, or a standard that is an order of magnitude away.
  const before = CELL_STANDARD * (FROM[Math.floor(FROM.length * random.uniform())] ?? 1) * random.between(0.8, 1.25)
  const half = is('slow exchange') ? random.between(5, 13) : random.between(0.3, 3)
  const width = half * random.between(0.12, 0.3)
  const carried = is('carried over') ? random.between(0.004, 0.02) : random.between(0, 0.001)
  const carriedTime = log(20, 80)
  const celsius = 25 + random.between(-3, 3)
  const lag = is('lagging temperature') ? sign() * random.between(2, 7) : sign() * random.between(0, 0.5)
  let thermometer = celsius + lag
  const share = creepOf(
    shape,
    { fast: [0.0026, 0.008], slow: [0.0006, 0.002], towards: Math.sign(CELL_STANDARD - before) },
    random,
  )
  const creep = CELL_STANDARD * share
  const device = {
    white: CELL_STANDARD * (is('noisy') ? random.between(0.0015, 0.004) : log(1e-4, 6e-4)),
    wanderSd: CELL_STANDARD * log(5e-5, 3e-4),
    wanderTime: log(3, 18),
    step: is('coarse display') ? 10 : 1,
    refresh: is('slow refresh') ? random.between(2, 6) : 0,
    every: is('slow line') ? random.between(1.5, 4.8) : random.uniform() < 0.4 ? 1 : 0.5,
    smoothing: random.uniform() < 0.3 ? random.between(0.5, 3) : 0,
  }
  const bubbleFrom = random.between(8, 50)
  const bubble = is('bubble')
    ? { from: bubbleFrom, to: bubbleFrom + random.between(3, 20), size: random.between(0.02, 0.2) }
    : null
  const display = new ReadOut(device, random, STEP)
  const deposit = new Layer(nature.depositTime)
  let [bore, pocket] = [before, before]
  const count = Math.round(SECONDS / STEP)
  for (let k = 0; k <= count; k++) {
    const t = k * STEP
    const exchanged = (1 / (1 + Math.exp((half - t) / width))) * (1 - carried * Math.exp(-t / carriedTime))
    const outside = before + (CELL_STANDARD - before) * exchanged
    bore += (STEP / (STEP + nature.flush)) * (outside - bore)
    pocket += (STEP / (STEP + nature.pocketTime)) * (bore - pocket)
    const filled = deposit.step((bore - before) / (CELL_STANDARD - before), STEP)
    const porous = before + (CELL_STANDARD - before) * filled
    const { pocketShare, depositShare } = nature
    const field = (1 - pocketShare - depositShare) * bore + pocketShare * pocket + depositShare * porous
    const body = celsius + lag * Math.exp(-t / nature.lagTime)
    thermometer += (STEP / (STEP + nature.thermometerTime)) * (body - thermometer)
    const blocked = bubble && t > bubble.from && t < bubble.to ? 1 - bubble.size : 1
    const compensated =
      ((field + (creep * t) / 60) * blocked * (1 + nature.alpha * (body - 25))) /
      (1 + nature.taken * (thermometer - 25))
    display.push(t, compensated, thermometer)
  }
  const end = (CELL_STANDARD * (1 + nature.alpha * (celsius - 25))) / (1 + nature.taken * (celsius - 25))
  return { shape, samples: display.samples, end, creep }
}
