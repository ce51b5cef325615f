import {
  calibratePhTwoPoint,
  monteCarlo,
  nernstSlope,
  type PhPoint,
  phBufferValue,
  practicalSalinity,
  randomStream,
  seawaterConductivity,
} from '@frustum/core'

export interface SpeedRatio {
  what: string
  perSecond: number
  /** Of a plain hand-written loop of the same arithmetic. */
  ratio: number
}

/** Times both in turns, so that a slow moment hits both; operations per second of the best turn. */
function against(what: string, ours: (i: number) => number, plain: (i: number) => number, count: number): SpeedRatio {
  const best = [0, 0]
  let sink = 0
  for (let turn = 0; turn < 7; turn++) {
    for (const [k, f] of [ours, plain].entries()) {
      const began = performance.now()
      for (let i = 0; i < count; i++) sink += f(i)
      best[k] = Math.max(best[k] as number, count / ((performance.now() - began) / 1000))
    }
  }
  if (!Number.isFinite(sink)) throw new Error(`${what} gave something that is not a number.`)
  const [a, b] = best as [number, number]
  return { what, perSecond: a, ratio: a / b }
}

/** PSS-78 with its coefficients in one expression each, nothing checked. */
function plainSalinity(conductivity: number, t68: number): number {
  const rt = 0.6766097 + t68 * (2.00564e-2 + t68 * (1.104259e-4 + t68 * (-6.9698e-7 + t68 * 1.0031e-9)))
  return plainOfRatio(conductivity / 42914 / rt, t68)
}

function plainOfRatio(ratio: number, t68: number): number {
  const x = Math.sqrt(ratio)
  const shift = t68 - 15
  const a = 0.008 + x * (-0.1692 + x * (25.3851 + x * (14.0941 + x * (-7.0261 + x * 2.7081))))
  const b = 0.0005 + x * (-0.0056 + x * (-0.0066 + x * (-0.0375 + x * (0.0636 - x * 0.0144))))
  return a + (shift / (1 + 0.0162 * shift)) * b
}

/** Its inverse by the same false-position steps, written out. */
function plainConductivity(salinity: number, t68: number): number {
  let [a, b] = [1e-5, 1.5]
  let [fa, fb] = [plainOfRatio(a, t68) - salinity, plainOfRatio(b, t68) - salinity]
  let x = b
  for (let i = 0; i < 200; i++) {
    x = (a * fb - b * fa) / (fb - fa)
    const fx = plainOfRatio(x, t68) - salinity
    if (fx === 0 || Math.abs(b - a) < 1e-12 || Math.abs(x - b) < 5e-13) break
    if (fx * fb < 0) {
      a = b
      fa = fb
    } else fa /= 2
    b = x
    fb = fx
  }
  const rt = 0.6766097 + t68 * (2.00564e-2 + t68 * (1.104259e-4 + t68 * (-6.9698e-7 + t68 * 1.0031e-9)))
  return 42914 * rt * x
}

const point = (bufferCode: string, millivolts: number): PhPoint => ({
  bufferCode,
  millivolts,
  millivoltsUncertainty: 0.8,
  temperature: 22,
})

/** The two-point arithmetic written out: buffer values, their slopes with temperature, line, variances. */
function plainTwoPoint(e1: number, e2: number): number {
  const k = nernstSlope(22)
  const v1 = phBufferValue('pH7.00', 22)
  const v2 = phBufferValue('pH10.01', 22)
  const d1 = (phBufferValue('pH7.00', 23) - phBufferValue('pH7.00', 21)) / 2
  const d2 = (phBufferValue('pH10.01', 23) - phBufferValue('pH10.01', 21)) / 2
  const [u1, u2] = [k * (7 - v1), k * (7 - v2)]
  const eta = (e2 - e1) / (u2 - u1)
  const zero = e1 - eta * u1
  const s1 = eta * (u1 / 295.15 - k * d1) * 0.2551
  const s2 = eta * (u2 / 295.15 - k * d2) * 0.2551
  const va = 0.1666 + (0.01 * k * eta) ** 2 + s1 * s1
  const vb = 0.1666 + (0.01 * k * eta) ** 2 + s2 * s2
  const run = (u2 - u1) ** 2
  return zero + eta + Math.sqrt((va + vb) / run) + Math.sqrt((va * u2 * u2 + vb * u1 * u1) / run)
}

const MODEL_INPUTS = [
  { name: 'a', estimate: 10, sd: 0.1 },
  { name: 'b', estimate: 4, sd: 0.08 },
]

function plainMonteCarlo(seed: number): number {
  const random = randomStream(seed)
  const draws = new Float64Array(1000)
  for (let i = 0; i < 1000; i++) draws[i] = (10 + 0.1 * random.normal()) / (4 + 0.08 * random.normal())
  draws.sort()
  let mean = 0
  for (const d of draws) mean += d / 1000
  let variance = 0
  for (const d of draws) variance += (d - mean) ** 2 / 999
  return mean + Math.sqrt(variance) + (draws[25] as number) + (draws[975] as number)
}

/** Speed of the formulas, each as a ratio to a plain loop of the same arithmetic in the same run. */
export function coreSpeed(): SpeedRatio[] {
  return [
    against(
      'PSS-78, conductivity to salinity',
      (i) => practicalSalinity(30_000 + (i % 20_000), 20),
      (i) => plainSalinity(30_000 + (i % 20_000), 20 * 1.00024),
      400_000,
    ),
    against(
      'PSS-78 inverse',
      (i) => seawaterConductivity(20 + (i % 2000) / 100, 20),
      (i) => plainConductivity(20 + (i % 2000) / 100, 20 * 1.00024),
      100_000,
    ),
    against(
      'pH two-point with uncertainty',
      (i) => calibratePhTwoPoint(point('pH7.00', i % 10), point('pH10.01', -170 + (i % 5))).zeroUncertainty,
      (i) => plainTwoPoint(i % 10, -170 + (i % 5)),
      100_000,
    ),
    against(
      'Monte Carlo, 1,000 draws',
      (i) => monteCarlo(([a, b]) => (a as number) / (b as number), MODEL_INPUTS, 1000, randomStream(i)).sd,
      (i) => plainMonteCarlo(i),
      400,
    ),
  ]
}
