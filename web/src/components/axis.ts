import { day } from './format.ts'

/** The words on the axes of all charts. */
export const TICK = { fill: 'var(--soft)', fontSize: 13 } as const

/** What all axes of dates have in common. */
export const timeAxis = (timeZone: string) =>
  ({
    dataKey: 'at',
    type: 'number',
    tickFormatter: (at: number) => day(at, timeZone),
    tick: TICK,
    stroke: 'var(--line)',
  }) as const

/** The round step that gives about three to six ticks. */
function roundStep([low, high]: [number, number]): number {
  const raw = (high - low) / 5
  const decade = 10 ** Math.floor(Math.log10(raw))
  return ([1, 2, 5, 10].find((m) => m * decade >= raw) ?? 10) * decade
}

/** Decimals that the labels of such an axis need. */
export const stepDecimals = (domain: [number, number]) => Math.max(0, -Math.floor(Math.log10(roundStep(domain)) + 1e-9))

/** Ticks at round values within the domain. */
export function evenTicks(domain: [number, number]): number[] {
  const step = roundStep(domain)
  const first = Math.ceil(domain[0] / step)
  const last = Math.floor(domain[1] / step)
  return Array.from({ length: last - first + 1 }, (_, i) => (first + i) * step)
}
