import type { ProbeView } from '@frustum/contract'
import { ORP_OFFSET_RULE, PH_LIMITS } from '@frustum/core'

interface Trend {
  title: string
  unit: string
  decimals: number
  points: { at: number; value: number; bar: number }[]
  /** Where a sound sensor lies. */
  sound: [number, number]
  limits: { value: number; word: string }[]
}

/** Where each parameter of a sound sensor lies, as shown, and from where on which word holds (common practice, no source). */
const RULES: Partial<Record<string, Pick<Trend, 'sound' | 'limits'>>> = {
  'ph zero': {
    sound: [-PH_LIMITS.zeroSound, PH_LIMITS.zeroSound],
    limits: [
      { value: PH_LIMITS.zeroWatch, word: 'suspect' },
      { value: -PH_LIMITS.zeroWatch, word: 'suspect' },
    ],
  },
  'ph slopeEfficiency': {
    sound: [100 * PH_LIMITS.slopeSound, 100 * PH_LIMITS.slopeHigh],
    limits: [
      { value: 100 * PH_LIMITS.slopeAgeing, word: 'order one' },
      { value: 100 * PH_LIMITS.slopeReplace, word: 'replace' },
    ],
  },
  'ion slopeEfficiency': { sound: [88, 104], limits: [{ value: 75, word: 'replace' }] },
  'orp offset': {
    sound: [-ORP_OFFSET_RULE, ORP_OFFSET_RULE],
    limits: [
      { value: 2 * ORP_OFFSET_RULE, word: 'gone' },
      { value: -2 * ORP_OFFSET_RULE, word: 'gone' },
    ],
  },
  'conductivity factor': { sound: [0.9, 1.1], limits: [] },
}

/** One trend for each parameter that was ever found and that can move, the first ones first. */
export function trendsOf(probe: ProbeView): Trend[] {
  return probe.parameters.flatMap(({ key, label, unit, decimals, scale }) => {
    // The temperature at which a level was taken is no figure of the sensor's.
    if (key.startsWith('temperature')) return []
    const points = probe.calibrations.flatMap((c) => {
      const value = c.characteristic[key]
      return value === undefined ? [] : [{ at: c.at, value: value * scale, bar: (c.uncertainty[key] ?? 0) * scale }]
    })
    const values = points.map((p) => p.value)
    const [low, high] = [Math.min(...values), Math.max(...values)]
    if (points.length < 2 || (key.endsWith('2') && points.length < 3) || high - low < 10 ** -decimals) return []
    const middle = (low + high) / 2
    const spread = Math.max((high - low) / 2, 10 ** -decimals)
    const rule = RULES[`${probe.kind} ${key}`] ?? { sound: [middle - 1.5 * spread, middle + 1.5 * spread], limits: [] }
    const title = probe.kind === 'ph' && key === 'zero' ? 'Zero at pH 7' : label
    return [{ title, unit: unit === '%' && key !== 'gain' ? '% of ideal' : unit, decimals, points, ...rule }]
  })
}
