import type { ProbeView } from '@frustum/contract'
import { asRead } from '../../components/format.ts'

interface Trend {
  title: string
  unit: string
  decimals: number
  points: { at: number; value: number; bar: number }[]
  /** Where a sound sensor lies. */
  sound: readonly [number, number]
  limits: readonly { value: number; word: string }[]
}

/** One trend for each parameter that was ever found and that can move, the first ones first. */
export function trendsOf(probe: ProbeView): Trend[] {
  return probe.parameters.flatMap((parameter) => {
    const { key, label, condition, secondLevel, trendTitle } = parameter
    if (condition) return []
    // Zeros and offsets are differences.
    const { unit, decimals, width } = asRead(parameter)
    const scale = parameter.scale * width(1)
    const points = probe.calibrations.flatMap((c) => {
      const value = c.characteristic[key]
      return value === undefined ? [] : [{ at: c.at, value: value * scale, bar: (c.uncertainty[key] ?? 0) * scale }]
    })
    const values = points.map((p) => p.value)
    const [low, high] = [Math.min(...values), Math.max(...values)]
    if (points.length < 2 || (secondLevel && points.length < 3) || high - low < 10 ** -decimals) return []
    const middle = (low + high) / 2
    const spread = Math.max((high - low) / 2, 10 ** -decimals)
    const [soundLow, soundHigh] = parameter.sound ?? []
    const sound =
      soundLow === undefined || soundHigh === undefined
        ? ([middle - 1.5 * spread, middle + 1.5 * spread] as const)
        : ([width(soundLow), width(soundHigh)] as const)
    const limits = (parameter.limits ?? []).map((l) => ({ ...l, value: width(l.value) }))
    return [
      {
        title: trendTitle ?? label,
        unit: unit === '%' && key !== 'gain' ? '% of ideal' : unit,
        decimals,
        points,
        sound,
        limits,
      },
    ]
  })
}
